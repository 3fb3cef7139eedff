//! Bodies made solids that stay solids when their points move by a step: of single precision, or of that of their inputs.
//!
//! Triangles lower than a few steps are taken out, and what touches itself is drawn apart; if it is no solid then, what crosses
//! is arranged exactly, and the same done again, a little coarser in time, until it stays one (iterated snap rounding; after
//! Devillers, Lazard and Lenhart 2018, and Valque and Lazard 2021).

use rustc_hash::FxHashSet;

use super::{ArrangeError, Arrangement};
use crate::crossings::{crossing_pairs, triangle_bvh};
use crate::measure::measure;
use crate::slender::without_thin;
use crate::topology::EdgeUse;
use crate::touching::{drawn_apart, drawn_together, without_leaves};
use crate::{Aabb, Cancelled, Mesh, MeshError, Point, Progress, Topology, shells};

/// How a body is settled.
pub(crate) struct Settling<'a> {
    /// The step, mm.
    pub step: f64,
    /// Triangles lower than so many steps are taken out, in each round.
    pub rounds: &'a [f64],
    /// Where each point comes to lie.
    pub place: &'a dyn Fn(Point) -> Point,
    /// What that is, for people.
    pub what: &'a str,
}

/// Where a body is finer than a step: there its points lie on a grid of about that.
pub(crate) struct Hot {
    cells: FxHashSet<[i64; 3]>,
    pitch: f64,
}

impl Hot {
    /// A cell is so many steps wide, and hot with its neighbours where there is a side of less than …
    const CELL: f64 = 64.0;
    /// … so many steps.
    const SHORT: f64 = 4.0;

    /// Where a body is finer than a step, mm.
    pub fn of(body: &Mesh, step: f64) -> Self {
        let pitch = step.log2().ceil().exp2();
        let mut hot = Self { cells: FxHashSet::default(), pitch };
        for t in 0..body.triangles().len() {
            let corners = body.corners(t);
            for k in 0..3 {
                let (p, q) = (corners[k], corners[(k + 1) % 3]);
                if p.distance_squared(q) < (step * Self::SHORT).powi(2) {
                    let [x, y, z] = hot.cell(p);
                    let around = (0..27).map(|n| [x + n % 3 - 1, y + n / 3 % 3 - 1, z + n / 9 - 1]);
                    hot.cells.extend(around);
                }
            }
        }
        hot
    }

    fn cell(&self, p: Point) -> [i64; 3] {
        (p / (self.pitch * Self::CELL)).to_array().map(|x| x.floor() as i64)
    }

    /// Where a point comes to lie.
    pub fn place(&self, p: Point) -> Point {
        if self.cells.contains(&self.cell(p)) { (p / self.pitch).round() * self.pitch } else { p }
    }
}

/// What came of it.
pub(crate) enum Settled {
    /// A solid, after so many rounds.
    Fit { mesh: Mesh, rounds: usize },
    /// It is finer than the step there.
    Torn(Point),
}

/// Settles a closed body.
pub(crate) fn settled(body: Mesh, how: &Settling<'_>, progress: &Progress) -> Result<Settled, ArrangeError> {
    /// What crosses is arranged with what is near it, in the last rounds all of it.
    const ALL: usize = 2;
    /// Edges no longer than so many times as what is taken out are short.
    const SHORT: f64 = 4.0;
    let Settling { step, rounds, place, what } = *how;
    let (mut made, mut at) = (body, Point::ZERO);
    // With so many steps a round changed nothing, and would change nothing again.
    let mut idle = None;
    for (n, steps) in rounds.iter().enumerate() {
        let all = n + ALL >= rounds.len();
        if idle == Some(*steps) && !all {
            continue;
        }
        let before = made.clone();
        let turn = progress.part(n, rounds.len());
        turn.report(0.0, what)?;
        made = placed(&made, place)?;
        if *steps > 0.0 {
            made = without_leaves(&without_thin(made, step * steps));
            // Where it touches itself along edges: along short ones at a point instead, along others not at all.
            if let Some(together) = drawn_together(&made, step * steps * SHORT)? {
                made = without_leaves(&together);
            }
            if let Some(apart) = drawn_apart(&made, step * steps)? {
                made = placed(&apart, place)?;
            }
        }
        at = made.points().first().copied().unwrap_or(at);
        if made.triangles().is_empty() {
            break;
        }
        let Some(fault) = fault(&made, &turn.stage(0.0, 0.4))? else {
            return Ok(Settled::Fit { mesh: made, rounds: n });
        };
        at = fault.at;
        // Most of it may be mended by taking out what is flat, and what touches is drawn apart in the next round.
        if *steps > 0.0 && (all || !fault.crossings.is_empty()) {
            let places = (!all).then_some(fault.crossings);
            made = match arranged(&made, places, step, &turn.stage(0.4, 1.0)) {
                Err(ArrangeError::Open { at, .. }) => return Ok(Settled::Torn(at)),
                made => made?,
            };
        }
        idle = (made == before).then_some(*steps);
    }
    Ok(Settled::Torn(at))
}

/// Each point in its place; those that fall on one place are one, and triangles that lose a side are gone.
pub(crate) fn placed(mesh: &Mesh, place: &dyn Fn(Point) -> Point) -> Result<Mesh, MeshError> {
    let points: Vec<Point> = mesh.points().iter().map(|p| place(*p)).collect();
    let welded = crate::weld::weld_mesh(&points, mesh.triangles(), mesh.face_of().to_vec())?;
    let whole = |t: usize| {
        let [a, b, c] = welded.triangles()[t];
        a != b && b != c && c != a
    };
    Ok(welded.retain_triangles(whole))
}

/// Where a mesh is no solid.
pub(crate) struct Fault {
    at: Point,
    /// Where triangles cross.
    crossings: Vec<Aabb>,
}

/// Where a mesh is no solid; none if it is one.
pub(crate) fn fault(mesh: &Mesh, progress: &Progress) -> Result<Option<Fault>, Cancelled> {
    /// Height over longest side of a triangle without area, as an examination has it.
    const NO_HEIGHT: f64 = 1e-12;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let odd = (0..topology.edge_count() as u32).find(|e| topology.edge_use(*e) != EdgeUse::Regular);
    let odd = odd.map(|e| mesh.points()[topology.ends(topology.halves(e)[0]).0 as usize]);
    let flat = || {
        (0..mesh.triangles().len()).map(|t| (t, mesh.corners(t))).find_map(|(t, [a, b, c])| {
            let longest = a.distance_squared(b).max(b.distance_squared(c)).max(c.distance_squared(a));
            (mesh.area_vector(t).length() <= NO_HEIGHT * longest).then_some(a)
        })
    };
    if let Some(at) = odd.or_else(flat) {
        return Ok(Some(Fault { at, crossings: vec![] }));
    }
    let pairs = crossing_pairs(mesh, &triangle_bvh(mesh), progress)?;
    let both = |(t, u): &(u32, u32)| {
        let [one, other] = [t, u].map(|t| Aabb::of(mesh.corners(*t as usize)));
        Aabb { min: one.min.max(other.min), max: one.max.min(other.max) }
    };
    let at = pairs.first().map(|(t, _)| mesh.corners(*t as usize)[0]);
    Ok(at.map(|at| Fault { at, crossings: pairs.iter().map(both).collect() }))
}

/// What the surface winds round, without flakes; where it is known in which places it crosses, only those are looked at.
fn arranged(mesh: &Mesh, places: Option<Vec<Aabb>>, step: f64, progress: &Progress) -> Result<Mesh, ArrangeError> {
    let all = Arrangement::as_it_lies(mesh, places, &progress.stage(0.0, 0.7))?;
    let body = all.body(|w| w[0] > 0, &progress.stage(0.7, 1.0))?.mesh;
    Ok(without_flakes(&body, step))
}

/// Without shells that are nowhere thicker than about a step.
fn without_flakes(mesh: &Mesh, step: f64) -> Mesh {
    let (shell_of, count) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let pieces = mesh.pieces(&shell_of, count);
    let stays: Vec<bool> = pieces
        .iter()
        .map(|piece| {
            let held = measure(piece);
            held.volume.abs() > held.area * step
        })
        .collect();
    mesh.retain_triangles(|t| stays[shell_of[t] as usize])
}
