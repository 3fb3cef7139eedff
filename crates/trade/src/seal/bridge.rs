//! `seal.bridge`: joins two rims by a band of triangles. No existing point moves.

use std::collections::HashSet;

use nimbet_kernel::rims::Rim;
use nimbet_kernel::topology::ends;
use nimbet_kernel::triangulate::band;
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::named_rims;
use crate::examine::{RimFacts, RimPick};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.bridge`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Bridge {
    /// One rim.
    pub from: RimPick,
    /// The other.
    pub to: RimPick,
}

impl Bridge {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        let (rims, facts) = named_rims(mesh);
        let [from, to] = [&self.from, &self.to].map(|pick| {
            pick.find(mesh, &rims, &facts).ok_or_else(|| TradeError::NeedsNewPick {
                what: format!("the rim of {} length", millimetres(pick.length)),
                place: Point::from_array(pick.near),
            })
        });
        let (from, to) = (from?, to?);
        refuse_unfit(mesh, [(&rims[from], &facts[from]), (&rims[to], &facts[to])])?;

        let a = along_halves(mesh, &rims[from]);
        let mut b = along_halves(mesh, &rims[to]);
        // Where the two sides agree, their borders run opposite ways round the band.
        b.reverse();
        let place = |ids: &[u32]| ids.iter().map(|&i| mesh.points()[i as usize]).collect::<Vec<Point>>();
        let agreeing = band(&place(&a), &place(&b), &progress.stage(0.0, 0.5))?;
        let mut b_turned = b.clone();
        b_turned.reverse();
        let clashing = band(&place(&a), &place(&b_turned), &progress.stage(0.5, 1.0))?;
        /// The band of least area is twisted like a bow tie when run the wrong way; half the area leaves no doubt.
        const NO_DOUBT: f64 = 0.5;
        let turned = clashing.1 < agreeing.1 * NO_DOUBT;
        let (b, (triangles, _)) = if turned { (b_turned, clashing) } else { (b, agreeing) };

        let id = |n: usize| if n < a.len() { a[n] } else { b[n - a.len()] };
        let new: Vec<[u32; 3]> = triangles.iter().map(|t| t.map(id)).collect();
        refuse_taken(mesh, &new)?;
        let added = new.len();
        let face = mesh.next_face();
        let (points, mut all, mut faces) = mesh.clone().into_parts();
        all.extend(new);
        faces.resize(all.len(), face);
        let left = if turned {
            vec!["the two sides disagree about the outside; Agree windings mends that".into()]
        } else {
            vec![]
        };
        Ok(Outcome {
            mesh: Mesh::new(points, all, faces)?,
            done: vec![format!(
                "joined {} and {} by {}",
                facts[from].name,
                facts[to].name,
                count(added, "triangle", "triangles")
            )],
            left,
            largest_move: 0.0,
        })
    }
}

/// The points of a rim in the direction in which most of its halves run.
fn along_halves(mesh: &Mesh, rim: &Rim) -> Vec<u32> {
    let forward = rim.halves.iter().zip(&rim.points).filter(|(h, p)| ends(mesh.triangles(), **h).0 == **p).count();
    let mut points = rim.points.clone();
    if forward * 2 < rim.halves.len() {
        points.reverse();
    }
    points
}

fn refuse_unfit(mesh: &Mesh, both: [(&Rim, &RimFacts); 2]) -> Result<(), TradeError> {
    if both[0].1.name == both[1].1.name {
        return Err(TradeError::refused(
            "a bridge joins two rims, and both picks mean the same one; cover it instead",
            vec![Point::from_array(both[0].1.centre)],
        ));
    }
    if let Some((_, open)) = both.iter().find(|(_, f)| !f.closed) {
        return Err(TradeError::refused(
            format!(
                "{} is an open chain: it ends at edges of three or more triangles, which must be mended first",
                open.name
            ),
            vec![Point::from_array(open.centre)],
        ));
    }
    let first: HashSet<u32> = both[0].0.points.iter().copied().collect();
    if let Some(&shared) = both[1].0.points.iter().find(|p| first.contains(p)) {
        return Err(TradeError::refused(
            format!("{} and {} touch at a point; a band there would pinch", both[0].1.name, both[1].1.name),
            vec![mesh.points()[shared as usize]],
        ));
    }
    Ok(())
}

/// Refuses a band one of whose sides across is there already: it would get a third triangle.
fn refuse_taken(mesh: &Mesh, new: &[[u32; 3]]) -> Result<(), TradeError> {
    let sides = |t: &[u32; 3]| [(t[0], t[1]), (t[1], t[2]), (t[2], t[0])];
    let low_high = |(a, b): (u32, u32)| (a.min(b), a.max(b));
    let mut uses = std::collections::HashMap::new();
    for side in new.iter().flat_map(sides).map(low_high) {
        *uses.entry(side).or_insert(0u32) += 1;
    }
    let there = mesh.triangles().iter().flat_map(sides).map(low_high).find(|s| uses.get(s).is_some_and(|n| *n > 1));
    match there {
        Some((a, b)) => Err(TradeError::refused(
            "the band would run along an edge the part has already; cover the rims instead",
            vec![mesh.points()[a as usize].midpoint(mesh.points()[b as usize])],
        )),
        None => Ok(()),
    }
}
