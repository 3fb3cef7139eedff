//! Tangles: crossing triangles gathered into connected places, each with its extent and likely cause.

use std::collections::{BTreeMap, HashMap};

use nimbet_kernel::predicates::{Side, side_of_plane};
use nimbet_kernel::{Bvh, Mesh, UnionFind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::bend::tube_width;
use super::finding::Place;
use crate::words::millimetres;

/// What kind of crossing a place is, told by how its triangles hang together.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum TangleKind {
    /// One stretch of surface passes through itself: it is bent tighter than its own radius.
    Fold,
    /// Two shells pass through each other.
    Shells,
    /// Two stretches of one shell pass through each other.
    Walls,
    /// Triangles lie on each other in one plane and cross nowhere else.
    Overlay,
}

/// The measures of a tangle.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct TangleFacts {
    /// X1 has the most crossing pairs.
    pub name: String,
    /// What kind it is.
    pub kind: TangleKind,
    /// Pairs of triangles that cross.
    pub pairs: usize,
    /// How many of the pairs lie in one plane.
    pub coplanar: usize,
    /// Triangles involved.
    pub triangles: usize,
    /// Where it is.
    pub place: Place,
    /// Of a fold in a tube, how wide the tube is, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tube: Option<f64>,
}

/// Gathers crossing pairs into places: triangles of one place cross each other or share a point.
/// Cost: linear in the pairs, but for looking up points.
pub(super) fn gather(mesh: &Mesh, bvh: &Bvh, crossings: &[(u32, u32)], shell_of: &[u32]) -> Vec<TangleFacts> {
    let mut involved: Vec<u32> = crossings.iter().flat_map(|&(a, b)| [a, b]).collect();
    involved.sort_unstable();
    involved.dedup();
    let number: HashMap<u32, u32> = involved.iter().enumerate().map(|(n, &t)| (t, n as u32)).collect();

    // Stretches hang together by points alone; places by points and by crossing.
    let mut stretches = UnionFind::new(involved.len());
    let mut at_point: HashMap<u32, u32> = HashMap::new();
    for (n, &t) in involved.iter().enumerate() {
        for point in mesh.triangles()[t as usize] {
            let first = *at_point.entry(point).or_insert(n as u32);
            stretches.union(first, n as u32);
        }
    }
    let mut places = stretches.clone();
    for &(a, b) in crossings {
        places.union(number[&a], number[&b]);
    }

    let mut pairs_of: BTreeMap<u32, Vec<(u32, u32)>> = BTreeMap::new();
    for &(a, b) in crossings {
        pairs_of.entry(places.find(number[&a])).or_default().push((a, b));
    }
    /// So many folds are looked at for a tube.
    const TUBES: usize = 8;
    let mut looked_at = 0;
    let mut facts: Vec<TangleFacts> = pairs_of
        .into_values()
        .map(|pairs| {
            let mut triangles: Vec<u32> = pairs.iter().flat_map(|&(a, b)| [a, b]).collect();
            triangles.sort_unstable();
            triangles.dedup();
            let coplanar = pairs.iter().filter(|&&(a, b)| in_one_plane(mesh, a, b)).count();
            let share = |f: &mut dyn FnMut(u32, u32) -> bool| pairs.iter().filter(|&&(a, b)| f(a, b)).count() * 2;
            let kind = if coplanar == pairs.len() {
                TangleKind::Overlay
            } else if share(&mut |a, b| shell_of[a as usize] != shell_of[b as usize]) > pairs.len() {
                TangleKind::Shells
            } else if share(&mut |a, b| stretches.find(number[&a]) == stretches.find(number[&b])) > pairs.len() {
                TangleKind::Fold
            } else {
                TangleKind::Walls
            };
            let place = Place::of(triangles.iter().flat_map(|&t| mesh.corners(t as usize)));
            let look = kind == TangleKind::Fold && looked_at < TUBES;
            looked_at += usize::from(look);
            TangleFacts {
                name: String::new(),
                kind,
                pairs: pairs.len(),
                coplanar,
                triangles: triangles.len(),
                tube: if look { tube_width(mesh, bvh, shell_of, &place, &triangles) } else { None },
                place,
            }
        })
        .collect();
    facts.sort_by_key(|f| std::cmp::Reverse(f.pairs));
    for (n, f) in facts.iter_mut().enumerate() {
        f.name = format!("X{}", n + 1);
    }
    facts
}

fn in_one_plane(mesh: &Mesh, a: u32, b: u32) -> bool {
    let [p, q, r] = mesh.corners(a as usize);
    mesh.corners(b as usize).into_iter().all(|v| side_of_plane(p, q, r, v) == Side::On)
}

impl TangleFacts {
    /// The likely cause, in plain words.
    pub(super) fn cause(&self) -> String {
        match self.tube {
            Some(width) => format!(
                "The tube, {} across, is bent tighter than its own radius there: its middle line needs a bend of more than {}.",
                millimetres(width),
                millimetres(width * 0.5)
            ),
            None => self.kind.cause().into(),
        }
    }
}

impl TangleKind {
    fn cause(self) -> &'static str {
        match self {
            Self::Fold => "The surface is bent tighter than its own radius there, or was moved through itself.",
            Self::Shells => {
                "Two shells were put together without being made one: each keeps its walls inside the other."
            }
            Self::Walls => {
                "Two walls of the part pass through each other, as where a cover or an offset dips through a wall."
            }
            Self::Overlay => "Faces lie on each other in one plane: a face was made twice, or two bodies share a side.",
        }
    }
}
