//! Bodies made solids that stay solids when their points move by a step: of single precision, or of that of their inputs.
//!
//! Triangles lower than a step are taken out, and what touches itself is drawn apart; where it is no solid then, it is arranged
//! exactly, and the same done again there only, until it stays one (iterated snap rounding; after Devillers, Lazard and Lenhart
//! 2018, and Valque and Lazard 2021). Each round has to leave less to mend than the one before; where it does not, it is done
//! again a little coarser, at last everywhere.

use std::ops::ControlFlow;

use rustc_hash::FxHashSet;

use super::{ArrangeError, Arrangement};
use crate::compare::Compared;
use crate::crossings::{crossing_pairs_after, crossing_pairs_up_to, triangle_bvh};
use crate::measure::measure;
use crate::slender::{without_thin, without_thin_among};
use crate::topology::EdgeUse;
use crate::touching::{drawn_apart, drawn_together, without_leaves};
use crate::{Aabb, Bvh, Cancelled, Mesh, MeshError, Point, Progress, Topology, shells};

/// How a body is settled.
pub(crate) struct Settling<'a> {
    /// The step, mm.
    pub step: f64,
    /// Triangles lower than so many steps are taken out, at each level; at 0 points are only put in their places.
    pub levels: &'a [f64],
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
    /// A solid, and whether more was done than putting its points in their places.
    Fit { mesh: Mesh, mended: bool },
    /// It is finer than the step there.
    Torn(Point),
}

/// Settles a closed body.
pub(crate) fn settled(body: Mesh, how: &Settling<'_>, progress: &Progress) -> Result<Settled, ArrangeError> {
    match rounds(&body, how, Pace::Near, &progress.stage(0.0, 0.5))? {
        Settled::Torn(_) => rounds(&body, how, Pace::Everywhere, &progress.stage(0.5, 1.0)),
        fit => Ok(fit),
    }
}

/// How a body is gone over.
#[derive(Clone, Copy, PartialEq)]
enum Pace {
    /// After the first round only where there was something to mend in the last. Each has to leave less than any before; where
    /// it does not, the next level is tried on what the last one left. Nearly always enough, and the quickest.
    Near,
    /// All of it in each round, ever coarser, as long as there is not much more to mend than there was.
    Everywhere,
}

fn rounds(body: &Mesh, how: &Settling<'_>, pace: Pace, progress: &Progress) -> Result<Settled, ArrangeError> {
    /// So many rounds are the most.
    const ROUNDS: usize = 40;
    /// Rounds of a level when all of it is gone over.
    const AGAIN: usize = 3;
    /// So many times as much to mend as there was once, and so many besides, is much more.
    const MUCH: (usize, usize) = (2, 100);
    let again =
        |level: &f64| std::iter::repeat_n(*level, if pace == Pace::Everywhere && *level > 0.0 { AGAIN } else { 1 });
    let mut levels = how.levels.iter().flat_map(again).peekable();
    let mut at = body.points().first().copied().unwrap_or_default();
    let mut made = body.clone();
    let mut looked_at = LookedAt::default();
    let mut places: Option<Vec<Aabb>> = None;
    let (mut least, mut round) = (usize::MAX, 0);
    while let (Some(level), true) = (levels.peek().copied(), round < ROUNDS) {
        let turn = progress.part(round, ROUNDS);
        turn.report(0.0, how.what)?;
        let tidy = tidied(&made, level, places.as_deref(), how)?;
        if tidy.triangles().is_empty() {
            break;
        }
        let flawed = flawed(&tidy);
        at = flawed.first().map_or(at, |t| tidy.corners(*t as usize)[0]);
        if level == 0.0 && !flawed.is_empty() {
            levels.next();
            continue;
        }
        let crossings = looked_at.crossings(&tidy, &turn.stage(0.0, 0.4))?;
        let left = flawed.len() + crossings.len();
        let Some(first) = flawed.first().or(crossings.first().map(|(t, _)| t)) else {
            return Ok(Settled::Fit { mesh: tidy, mended: level > 0.0 });
        };
        at = tidy.corners(*first as usize)[0];
        let in_vain = match pace {
            Pace::Near => left >= least,
            Pace::Everywhere if left > least.saturating_mul(MUCH.0).saturating_add(MUCH.1) => break,
            Pace::Everywhere => false,
        };
        if level == 0.0 || pace == Pace::Everywhere || in_vain {
            levels.next();
        }
        if level == 0.0 || in_vain {
            continue;
        }
        let there = boxes(&tidy, &flawed, crossings);
        made = match arranged(&tidy, there.clone(), how.step, &turn.stage(0.4, 1.0)) {
            Err(ArrangeError::Open { at, .. }) => return Ok(Settled::Torn(at)),
            made => made?,
        };
        (least, round) = (left.min(least), round + 1);
        places = (pace == Pace::Near).then_some(there);
    }
    Ok(Settled::Torn(at))
}

/// Each point in its place, what is lower than so many steps taken out, in some places or everywhere, and what touches itself
/// drawn apart.
fn tidied(made: &Mesh, steps: f64, places: Option<&[Aabb]>, how: &Settling<'_>) -> Result<Mesh, MeshError> {
    /// Edges no longer than so many times as what is taken out are short.
    const SHORT: f64 = 4.0;
    let made = placed(made, how.place)?;
    let low = how.step * steps;
    if low <= 0.0 {
        return Ok(made);
    }
    let thinned = match places {
        Some(places) => {
            let places = Bvh::new(places.iter().map(|b| b.grown(low * SHORT)).collect());
            let meets = |b: &Aabb| places.overlapping(b, |_| ControlFlow::Break(())).is_break();
            without_thin_among(made, low, |corners| meets(&Aabb::of(corners)))
        }
        None => without_thin(made, low),
    };
    let mut made = without_leaves(&thinned);
    // Where it touches itself along edges: along short ones at a point instead, along others not at all.
    if let Some(together) = drawn_together(&made, low * SHORT)? {
        made = without_leaves(&together);
    }
    match drawn_apart(&made, low)? {
        Some(apart) => placed(&apart, how.place),
        None => Ok(made),
    }
}

/// What of a surface crosses, each time it is asked for only where the surface is not as it was the last time.
#[derive(Default)]
struct LookedAt {
    mesh: Mesh,
    crossings: Vec<(u32, u32)>,
}

impl LookedAt {
    fn crossings(&mut self, mesh: &Mesh, progress: &Progress) -> Result<&[(u32, u32)], Cancelled> {
        let surfaces = Compared::new(&self.mesh, mesh, progress)?;
        self.crossings = crossing_pairs_after(&surfaces, &self.crossings, progress)?;
        self.mesh = mesh.clone();
        Ok(&self.crossings)
    }
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

/// Whether a mesh is a solid.
pub(crate) fn is_solid(mesh: &Mesh, progress: &Progress) -> Result<bool, Cancelled> {
    Ok(flawed(mesh).is_empty() && crossing_pairs_up_to(mesh, &triangle_bvh(mesh), 0, progress)?.is_some())
}

/// Triangles without area, and those at edges that are not of two that fit.
fn flawed(mesh: &Mesh) -> Vec<u32> {
    /// Height over longest side of a triangle without area, as an examination has it.
    const NO_HEIGHT: f64 = 1e-12;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let odd = (0..topology.edge_count() as u32).filter(|e| topology.edge_use(*e) != EdgeUse::Regular);
    let odd = odd.flat_map(|e| topology.halves(e).iter().map(|half| half / 3));
    let flat = (0..mesh.triangles().len() as u32).filter(|t| {
        let [a, b, c] = mesh.corners(*t as usize);
        let longest = a.distance_squared(b).max(b.distance_squared(c)).max(c.distance_squared(a));
        mesh.area_vector(*t as usize).length() <= NO_HEIGHT * longest
    });
    odd.chain(flat).collect()
}

/// The boxes round what has to be arranged.
fn boxes(mesh: &Mesh, flawed: &[u32], crossings: &[(u32, u32)]) -> Vec<Aabb> {
    let box_of = |t: &u32| Aabb::of(mesh.corners(*t as usize));
    let both = |(t, u): &(u32, u32)| {
        let [one, other] = [box_of(t), box_of(u)];
        Aabb { min: one.min.max(other.min), max: one.max.min(other.max) }
    };
    flawed.iter().map(box_of).chain(crossings.iter().map(both)).collect()
}

/// What the surface winds round, without flakes. It is known to cross itself in some places only: what is near is looked at, and
/// all of it where that leaves it open.
fn arranged(mesh: &Mesh, mut places: Vec<Aabb>, step: f64, progress: &Progress) -> Result<Mesh, ArrangeError> {
    /// Of a shell inside another only what was looked at is gone then; the rest of a small one is found so often.
    const TRIES: usize = 3;
    let body = |places: Option<Vec<Aabb>>, progress: &Progress| -> Result<Mesh, ArrangeError> {
        let all = Arrangement::as_it_lies(mesh, places, &progress.stage(0.0, 0.7))?;
        Ok(all.body(|w| w[0] > 0, &progress.stage(0.7, 1.0))?.mesh)
    };
    for n in 0..TRIES {
        let made = body(Some(places.clone()), &progress.part(n, TRIES + 1))?;
        let open = Topology::new(made.triangles(), made.points().len()).naked_halves();
        if open.is_empty() {
            return Ok(without_flakes(&made, step));
        }
        places.extend(open.iter().map(|half| Aabb::of(made.corners(*half as usize / 3))));
    }
    Ok(without_flakes(&body(None, &progress.part(TRIES, TRIES + 1))?, step))
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

#[cfg(test)]
mod tests {
    use super::*;
    use crate::shapes::{ball, block};

    fn together(bodies: &[&Mesh]) -> Mesh {
        let (mut points, mut triangles) = (vec![], vec![]);
        for body in bodies {
            let first = points.len() as u32;
            points.extend_from_slice(body.points());
            triangles.extend(body.triangles().iter().map(|t| t.map(|p| p + first)));
        }
        Mesh::with_one_face(points, triangles).unwrap()
    }

    /// A ball within another, wound round twice: wherever of the inner one is looked at, no part of it stays.
    #[test]
    fn of_a_shell_inside_another_nothing_stays_however_little_is_looked_at() {
        let (outer, inner) = (ball(10.0, 24), ball(3.0, 12));
        let both = together(&[&outer, &inner]);
        for t in (outer.triangles().len()..both.triangles().len()).step_by(37) {
            let places = vec![Aabb::of(both.corners(t))];
            let made = arranged(&both, places, 1e-9, &Progress::unwatched()).unwrap();
            assert!(is_solid(&made, &Progress::unwatched()).unwrap());
            assert_eq!(made.triangles().len(), outer.triangles().len(), "at {t}");
        }
    }

    /// Two plates that lie on each other but for less than a step, at any slant, and one turned a little: what comes of them is
    /// one plate, moved by steps only.
    #[test]
    fn plates_nearer_than_a_step_become_one() {
        let step = 1e-3;
        for (n, (slant, off)) in [(0.0, 0.2), (0.4, 0.3), (1e-5, 0.0), (3e-5, 0.7)].into_iter().enumerate() {
            let one = block(Point::ZERO, Point::new(20.0, 15.0, 2.0));
            let turn = glam::DQuat::from_rotation_z(slant) * glam::DQuat::from_rotation_x(step * 0.02);
            let other = one.clone().map_points(|p| turn * p + Point::Z * (off * step)).unwrap();
            let all = Arrangement::new(&[&one, &other], &[], &Progress::unwatched()).unwrap();
            let body = all.body_as_cut(|w| w.iter().any(|w| *w > 0), &Progress::unwatched()).unwrap().mesh;
            let how = Settling {
                step,
                levels: &[0.0, 1.0, 2.0, 4.0, 8.0],
                place: &|p: Point| (p / step).round() * step,
                what: "plates",
            };
            let Settled::Fit { mesh, .. } = settled(body.clone(), &how, &Progress::unwatched()).unwrap() else {
                panic!("plates {n}")
            };
            assert!(is_solid(&mesh, &Progress::unwatched()).unwrap(), "plates {n}");
            let (was, is) = (measure(&body), measure(&mesh));
            assert!(
                (was.volume - is.volume).abs() < was.area * 4.0 * step,
                "plates {n}: {} of {}",
                is.volume,
                was.volume
            );
        }
    }
}
