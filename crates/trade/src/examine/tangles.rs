//! Tangles: crossing triangles gathered into connected places, each with its extent and likely cause.

use std::collections::{BTreeMap, HashMap};

use nimbet_kernel::predicates::{Side, side_of_plane};
use nimbet_kernel::{Mesh, UnionFind};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::finding::Place;

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
}

/// Gathers crossing pairs into places: triangles of one place cross each other or share a point.
/// Cost: linear in the pairs, but for looking up points.
pub(super) fn gather(mesh: &Mesh, crossings: &[(u32, u32)], shell_of: &[u32]) -> Vec<TangleFacts> {
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
            TangleFacts {
                name: String::new(),
                kind,
                pairs: pairs.len(),
                coplanar,
                triangles: triangles.len(),
                place: Place::of(triangles.iter().flat_map(|&t| mesh.corners(t as usize))),
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

impl TangleKind {
    /// The likely cause, in plain words.
    pub(super) fn cause(self) -> &'static str {
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
