//! Bodies as triangles: edges first, once for all faces that share them, then each face within its edges.

use nimbet_kernel::{Aabb, Cancelled, FaceId, Mesh, MeshError, Point, Progress};
use rayon::prelude::*;
use rustc_hash::{FxHashMap, FxHashSet};

use crate::ball;
use crate::body::{Body, Face, Loop};
use crate::curve::Fineness;
use crate::fill::{Plane, Triangles, fill};
use crate::rings::{Added, Chain, Chart, Corner, FaceFault, boxed, without_seams};
use crate::surface::Surface;

/// Why a body could not be made into triangles.
#[derive(Debug, thiserror::Error)]
pub enum TessellateError {
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
    /// More triangles than allowed.
    #[error("it would be more than {0} triangles; a coarser chord makes fewer")]
    TooMany(usize),
    /// The numbers are no mesh.
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

/// A face that is left open.
#[derive(Clone, Debug, PartialEq)]
pub struct LeftOpen {
    /// Its number, from 0.
    pub face: usize,
    /// What it lies on.
    pub kind: &'static str,
    /// Why.
    pub why: FaceFault,
    /// A place on its bounds.
    pub at: Option<Point>,
}

/// A body as triangles.
#[derive(Debug)]
pub struct Tessellated {
    /// The triangles; faces have the numbers of the body's.
    pub mesh: Mesh,
    /// The faces that could not be covered.
    pub left_open: Vec<LeftOpen>,
}

/// Points along the edges: those of the body, and between them.
struct Sampled {
    points: Vec<Point>,
    /// The points of each edge from its beginning to its end.
    of_edge: Vec<Vec<u32>>,
}

/// Makes triangles of a body, at most so many.
///
/// # Errors
/// [`TessellateError`]; faces that cannot be covered are no error.
pub fn tessellate(
    body: &Body,
    fineness: &Fineness,
    most: usize,
    progress: &Progress,
) -> Result<Tessellated, TessellateError> {
    /// Where faces stay open all of the body is followed so many times more finely.
    const FINER: [f64; 2] = [4.0, 16.0];
    let mut best = attempt(body, fineness, most, progress)?;
    for times in FINER {
        let hopeless = |open: &LeftOpen| matches!(open.why, FaceFault::EdgeMissing | FaceFault::SurfaceMissing);
        if best.left_open.iter().all(hopeless) {
            break;
        }
        match attempt(body, &fineness.finer(times), most, progress) {
            Ok(made) if made.left_open.len() < best.left_open.len() => best = made,
            Err(TessellateError::TooMany(_)) => break,
            Err(e) => return Err(e),
            Ok(_) => {}
        }
    }
    Ok(best)
}

/// Makes triangles of a body with edges followed more finely where faces need it.
fn attempt(body: &Body, fineness: &Fineness, most: usize, progress: &Progress) -> Result<Tessellated, TessellateError> {
    /// Edges that cross as lines of points are followed so many times more finely, again and again.
    const FINER: f64 = 4.0;
    const ROUNDS: usize = 3;
    let (mut finer, mut within) = (vec![1.0; body.edges.len()], vec![1.0; body.faces.len()]);
    for round in 0.. {
        let sampled = sample(body, fineness, &finer, most)?;
        let covered = cover(body, &sampled, (fineness, &within), most, progress)?;
        let worth_more =
            |fault: &FaceFault| matches!(fault, FaceFault::Crosses | FaceFault::Area | FaceFault::Unbounded);
        let again: Vec<usize> =
            (covered.iter().enumerate()).filter(|(_, c)| c.as_ref().is_err_and(worth_more)).map(|(n, _)| n).collect();
        if again.is_empty() || round == ROUNDS {
            return put_together(body, sampled, covered, most);
        }
        let mut edges: Vec<u32> = again.iter().flat_map(|n| edges_of(&body.faces[*n])).collect();
        edges.sort_unstable();
        edges.dedup();
        edges.into_iter().for_each(|e| finer[e as usize] *= FINER);
        again.into_iter().for_each(|n| within[n] *= FINER);
    }
    unreachable!("the rounds end by themselves")
}

fn edges_of(face: &Face) -> impl Iterator<Item = u32> + '_ {
    face.loops
        .iter()
        .flat_map(|l| match l {
            Loop::Edges(edges) => edges.as_slice(),
            Loop::Point(_) => &[],
        })
        .map(|(edge, _)| *edge)
}

fn sample(body: &Body, fineness: &Fineness, finer: &[f64], most: usize) -> Result<Sampled, TessellateError> {
    let between: Vec<Vec<Point>> = (body.edges.par_iter().zip(finer))
        .map(|(edge, times)| edge.curve.between(edge.range, &fineness.finer(*times)))
        .collect();
    let mut points = body.points.clone();
    let mut of_edge = Vec::with_capacity(between.len());
    for (edge, between) in body.edges.iter().zip(between) {
        let first = points.len() as u32;
        let inner = first..first + between.len() as u32;
        points.extend(between);
        if points.len() > most {
            return Err(TessellateError::TooMany(most));
        }
        of_edge.push(std::iter::once(edge.ends[0]).chain(inner).chain([edge.ends[1]]).collect());
    }
    Ok(Sampled { points, of_edge })
}

/// What covers a face: points it adds, and triangles.
type Covered = Result<(Vec<Point>, Triangles), FaceFault>;

fn cover(
    body: &Body,
    sampled: &Sampled,
    (fineness, within): (&Fineness, &[f64]),
    most: usize,
    progress: &Progress,
) -> Result<Vec<Covered>, TessellateError> {
    let size = Aabb::of(sampled.points.iter().copied()).size().max_element().max(1e-300);
    let done = std::sync::atomic::AtomicUsize::new(0);
    let one = |(face, times): (&Face, &f64)| {
        let covered = cover_face(face, sampled, (&fineness.finer(*times), size), most, progress)?;
        let n = done.fetch_add(1, std::sync::atomic::Ordering::Relaxed);
        progress.report(n as f64 / body.faces.len() as f64, "covering faces with triangles")?;
        Ok(covered)
    };
    body.faces.par_iter().zip(within).map(one).collect()
}

/// A plane of parameters, laid out in steps.
struct Laid<'a> {
    surface: &'a Surface,
    step: [f64; 2],
}

impl Laid<'_> {
    fn out(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        [x * self.step[0], y * self.step[1]]
    }
}

impl Plane for Laid<'_> {
    fn place(&self, at: [f64; 2]) -> Point {
        self.surface.at(self.out(at))[0]
    }

    fn normal(&self, at: [f64; 2]) -> Option<Point> {
        self.surface.normal(self.out(at))
    }

    fn stretch(&self, at: [f64; 2]) -> f64 {
        let [_, su, sv] = self.surface.at(self.out(at));
        su.cross(sv).length() * self.step[0] * self.step[1]
    }
}

fn cover_face(
    face: &Face,
    sampled: &Sampled,
    (fineness, size): (&Fineness, f64),
    most: usize,
    progress: &Progress,
) -> Result<Covered, TessellateError> {
    progress.check()?;
    let mut points = Added { given: &sampled.points, more: Vec::new() };
    let bounds = match bounds_of(face, sampled) {
        Ok(bounds) => bounds,
        Err(fault) => return Ok(Err(fault)),
    };
    let filled = if let Surface::Sphere { frame, radius } = &face.surface {
        // The middle of a triangle stands off more than those of its sides.
        let step = fineness.step(*radius) * 0.87;
        let whole = bounds.iter().all(Vec::is_empty);
        match ball::seen((frame, *radius), &bounds, step, &mut points) {
            Ok((view, outlines, seeds)) => {
                if seeds.len() > most {
                    return Err(TessellateError::TooMany(most));
                }
                let mut filled = fill(&outlines, &seeds, &view, (fineness.chord, most), &mut points, progress)?;
                if let (true, Ok(triangles)) =
                    (whole || outlines[0].iter().all(|c| c.0 as usize >= sampled.points.len()), &mut filled)
                {
                    let [a, b, c] = [0, 1, 2].map(|n| outlines[0][n].0);
                    triangles.push([c, b, a]);
                }
                filled
            }
            Err(fault) => Err(fault),
        }
    } else {
        let periodic = face.surface.periods() != [None, None];
        let covered = charted(face, &bounds, (fineness, size, most), points, progress)?;
        // Some write seams that do not open the surface: what is bounded is the same without them.
        return match (covered, without_seams(&bounds)) {
            (Err(_), Ok(plain)) if periodic => {
                let points = Added { given: &sampled.points, more: Vec::new() };
                charted(face, &plain, (fineness, size, most), points, progress)
            }
            (covered, _) => Ok(covered),
        };
    };
    Ok(filled.map(|t| turned(t, face.same_sense)).map(|t| (points.more, t)))
}

/// A face covered in the plane of its parameters.
fn charted(
    face: &Face,
    bounds: &[Vec<Chain>],
    (fineness, size, most): (&Fineness, f64, usize),
    mut points: Added<'_>,
    progress: &Progress,
) -> Result<Covered, TessellateError> {
    let chart = Chart::new(&face.surface, size * 1e-7);
    let steps = |of: [[f64; 2]; 2]| face.surface.steps(fineness, of);
    match chart.outlines(bounds, &steps, &mut points) {
        Ok(outlines) => laid_and_filled(face, &outlines, (fineness, most), points, progress),
        Err(fault) => Ok(Err(fault)),
    }
}

fn laid_and_filled(
    face: &Face,
    outlines: &[Vec<Corner>],
    (fineness, most): (&Fineness, usize),
    mut points: Added<'_>,
    progress: &Progress,
) -> Result<Covered, TessellateError> {
    let [low, high] = boxed(outlines.iter().flatten());
    let size = [high[0] - low[0], high[1] - low[1]];
    let found = face.surface.steps(fineness, [low, high]);
    // Where it is straight, one step goes all along; a plane is laid out as it is.
    let step = match found.map(f64::is_finite) {
        [false, false] => [size[0].max(size[1]).max(1e-300); 2],
        _ => [0, 1].map(|k| if found[k].is_finite() { found[k].min(size[k].max(1e-300)) } else { size[k].max(1e-300) }),
    };
    let count = [0, 1].map(|k| if found[k].is_finite() { (size[k] / step[k]).ceil().max(1.0) } else { 1.0 });
    if count[0] * count[1] > most as f64 {
        return Err(TessellateError::TooMany(most));
    }
    // Rows and columns at even distances, so that they meet those of the bounds.
    let step = [0, 1].map(|k| if found[k].is_finite() { size[k].max(1e-300) / count[k] } else { step[k] });
    let laid = Laid { surface: &face.surface, step };
    let origin = [low[0] / step[0], low[1] / step[1]];
    let outlines: Vec<Vec<Corner>> =
        outlines.iter().map(|o| o.iter().map(|(id, [u, v])| (*id, [u / step[0], v / step[1]])).collect()).collect();
    let rows = 1..count[1] as usize;
    let seeds: Vec<[f64; 2]> = rows
        .flat_map(|row| (1..count[0] as usize).map(move |column| [origin[0] + column as f64, origin[1] + row as f64]))
        .collect();
    let filled = fill(&outlines, &seeds, &laid, (fineness.chord, most), &mut points, progress)?;
    Ok(filled.map(|t| turned(t, face.same_sense)).map(|t| (points.more, t)))
}

/// The triangles, turned over where the face looks the other way than its surface.
fn turned(mut triangles: Triangles, same_sense: bool) -> Triangles {
    if !same_sense {
        triangles.iter_mut().for_each(|t| t.swap(1, 2));
    }
    triangles
}

/// The bounds of a face as chains of points, the face on their left seen against the surface's normal.
fn bounds_of(face: &Face, sampled: &Sampled) -> Result<Vec<Vec<Chain>>, FaceFault> {
    let mut bounds = Vec::new();
    for bound in &face.loops {
        let Loop::Edges(edges) = bound else { continue };
        let mut chains = Vec::with_capacity(edges.len());
        for (edge, forward) in edges {
            let mut ids = sampled.of_edge.get(*edge as usize).ok_or(FaceFault::EdgeMissing)?.clone();
            let forward = *forward == face.same_sense;
            if !forward {
                ids.reverse();
            }
            chains.push(Chain { edge: *edge, forward, ids });
        }
        if !face.same_sense {
            chains.reverse();
        }
        if !chains.is_empty() {
            bounds.push(chains);
        }
    }
    Ok(bounds)
}

fn put_together(
    body: &Body,
    sampled: Sampled,
    covered: Vec<Covered>,
    most: usize,
) -> Result<Tessellated, TessellateError> {
    let given = sampled.points.len() as u32;
    let mut points = sampled.points;
    let (mut triangles, mut face_of, mut left_open) = (Vec::new(), Vec::new(), Vec::new());
    for (n, covered) in covered.into_iter().enumerate() {
        match covered {
            Ok((more, own)) => {
                let by = points.len() as u32 - given;
                points.extend(more);
                face_of.resize(face_of.len() + own.len(), FaceId(n as u32));
                triangles.extend(own.into_iter().map(|t| t.map(|id| if id < given { id } else { id + by })));
            }
            Err(why) => {
                let first = edges_of(&body.faces[n]).find_map(|e| body.edges.get(e as usize));
                let at = first.map(|e| body.points[e.ends[0] as usize]);
                left_open.push(LeftOpen { face: n, kind: body.faces[n].surface.name(), why, at });
            }
        }
        if triangles.len() > most {
            return Err(TessellateError::TooMany(most));
        }
    }
    part_shared_chords(body, &mut points, &mut triangles, &mut face_of);
    let (points, triangles) = only_used(points, triangles);
    Ok(Tessellated { mesh: Mesh::new(points, triangles, face_of)?, left_open })
}

/// Where two faces, or both sides of a seam, have an edge within them between the same two points of their bound, four triangles
/// would meet there: two of them go over a point of their surface instead.
fn part_shared_chords(body: &Body, points: &mut Vec<Point>, triangles: &mut Vec<[u32; 3]>, face_of: &mut Vec<FaceId>) {
    const PASSES: usize = 4;
    for _ in 0..PASSES {
        if !shared_chords_parted(body, points, triangles, face_of) {
            return;
        }
    }
}

/// One pass of it; says whether there was something to do.
fn shared_chords_parted(
    body: &Body,
    points: &mut Vec<Point>,
    triangles: &mut Vec<[u32; 3]>,
    face_of: &mut Vec<FaceId>,
) -> bool {
    let mut beside: FxHashMap<(u32, u32), Vec<usize>> = FxHashMap::default();
    for (n, [a, b, c]) in triangles.iter().enumerate() {
        for (a, b) in [(a, b), (b, c), (c, a)] {
            beside.entry((*a.min(b), *a.max(b))).or_default().push(n);
        }
    }
    let mut shared: Vec<((u32, u32), Vec<usize>)> = beside.into_iter().filter(|(_, all)| all.len() >= 4).collect();
    shared.sort_unstable();
    let mut touched: FxHashSet<usize> = FxHashSet::default();
    let runs = |t: [u32; 3], a: u32, b: u32| (0..3).any(|k| (t[k], t[(k + 1) % 3]) == (a, b));
    for ((a, b), all) in &shared {
        let mut faces: Vec<u32> = all.iter().map(|t| face_of[*t].0).collect();
        faces.sort_unstable_by_key(|f| std::cmp::Reverse(*f));
        faces.dedup();
        // One on each side, of one face, of which the edge is within.
        let pair = |face: u32| -> Option<[usize; 2]> {
            let own = || all.iter().copied().filter(|t| face_of[*t].0 == face && !touched.contains(t));
            let there = own().find(|t| runs(triangles[*t], *a, *b))?;
            Some([there, own().find(|t| runs(triangles[*t], *b, *a))?])
        };
        let Some((face, own)) = faces.into_iter().find_map(|f| Some((f, pair(f)?))) else { continue };
        let surface = &body.faces[face as usize].surface;
        let middle = (points[*a as usize] + points[*b as usize]) / 2.0;
        let m = points.len() as u32;
        points.push(surface.at(surface.place(middle, None))[0]);
        for t in own {
            let (mut first, mut second) = (triangles[t], triangles[t]);
            first.iter_mut().filter(|c| *c == b).for_each(|c| *c = m);
            second.iter_mut().filter(|c| *c == a).for_each(|c| *c = m);
            triangles[t] = first;
            triangles.push(second);
            face_of.push(FaceId(face));
            touched.insert(t);
        }
    }
    !shared.is_empty()
}

/// The points that triangles use, numbered by first appearance.
fn only_used(points: Vec<Point>, mut triangles: Vec<[u32; 3]>) -> (Vec<Point>, Vec<[u32; 3]>) {
    let mut number = vec![u32::MAX; points.len()];
    let mut used = Vec::new();
    for id in triangles.iter_mut().flatten() {
        let n = &mut number[*id as usize];
        if *n == u32::MAX {
            *n = used.len() as u32;
            used.push(points[*id as usize]);
        }
        *id = *n;
    }
    (used, triangles)
}
