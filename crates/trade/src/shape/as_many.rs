//! As many runs of edges as can have what is wanted, and where the others are.

use nimbet_edges::plan::{Planner, Trouble, Wanted};
use nimbet_edges::{Carved, EdgeError, finish};
use nimbet_kernel::Point;
use nimbet_kernel::segments::nearest_on_segment;

use crate::tool::Given;

/// What comes of it, where not all can have it.
pub(super) struct AsMany {
    /// The part.
    pub made: Carved,
    /// Where the runs are that stay as they are.
    pub left: Vec<Point>,
}

/// Does what is wanted to as many of the runs as can have it; those stay in `wanted`. Runs go one after the other, that nearest to
/// where it fails first; at last each that went is tried once more, since the fault may have been another's. None where more than
/// `most` would have to go.
///
/// # Errors
/// [`EdgeError`] where none can have it, or for another reason.
pub(super) fn as_many_as_can(
    planner: &Planner<'_>,
    wanted: &mut Vec<Wanted>,
    given: &Given<'_>,
    most: usize,
) -> Result<Option<AsMany>, EdgeError> {
    let all = |some: &[Wanted]| finish(planner, some, given.sealed(), &given.progress.stage(0.1, 1.0));
    let mut gone: Vec<Wanted> = Vec::new();
    let mut made = loop {
        given.progress.check()?;
        match all(wanted) {
            Ok(made) => break made,
            Err(EdgeError::Trouble(Trouble { at, .. })) if wanted.len() > 1 => {
                if gone.len() >= most {
                    return Ok(None);
                }
                gone.push(wanted.remove(nearest_to(planner, wanted, at)));
            }
            Err(e) => return Err(e),
        }
    };
    let mut left = Vec::new();
    // The last to go was what it failed by.
    let certain = gone.pop();
    for run in gone {
        given.progress.check()?;
        wanted.push(run);
        match all(wanted) {
            Ok(more) => made = more,
            Err(EdgeError::Trouble(Trouble { at, .. })) => {
                wanted.pop();
                left.push(at);
            }
            Err(e) => return Err(e),
        }
    }
    left.extend(certain.map(|run| middle_of(planner, &run)));
    Ok(Some(AsMany { made, left }))
}

/// The run nearest to a place: one that is still to come is known by that only.
fn nearest_to(planner: &Planner<'_>, wanted: &[Wanted], at: Point) -> usize {
    let off = |w: &Wanted| {
        let ends = planner.graph.runs[w.run as usize].edges.iter().map(|e| planner.graph.ends(*e));
        let places = ends.map(|e| e.map(|v| planner.graph.place(v)));
        places.map(|[a, b]| nearest_on_segment(at, a, b).1).fold(f64::INFINITY, f64::min)
    };
    (0..wanted.len()).min_by(|a, b| off(&wanted[*a]).total_cmp(&off(&wanted[*b]))).unwrap_or(0)
}

fn middle_of(planner: &Planner<'_>, wanted: &Wanted) -> Point {
    let edges = &planner.graph.runs[wanted.run as usize].edges;
    let [a, b] = planner.graph.ends(edges[edges.len() / 2]).map(|v| planner.graph.place(v));
    a.midpoint(b)
}
