//! Outlines of picked regions, and chains, as points.

use nimbet_kernel::triangulate::{FlatError, triangulate_flat};
use nimbet_kernel::{Aabb, Bvh, Point};

use super::{BodyError, refused};
use crate::look::Chain;
use crate::network::{Network, Piece};
use crate::region::{Region, Side};
use crate::span::Form;
use crate::{Flat, Span};

/// A vertex of an outline.
#[derive(Clone, Copy, Debug)]
pub struct Vertex {
    /// Where it is.
    pub at: Flat,
    /// The curve of the side that begins here.
    pub curve: usize,
    /// The face it makes: that of its curve, or of a straight stretch between bent ones by itself, numbered after all curves.
    pub side: usize,
    /// The direction in which the outline comes here, by the curve itself.
    pub comes: Flat,
    /// The direction in which it leaves.
    pub leaves: Flat,
    /// How the curve bends that comes here and that which leaves, 1/mm, to the left above 0.
    pub bends: [f64; 2],
}

/// Closed outlines with the area to their left, as points, and the triangles between them.
#[derive(Clone, Debug)]
pub struct Flattened {
    /// The outlines.
    pub outlines: Vec<Vec<Vertex>>,
    /// Triangles, counter-clockwise, naming the vertices of all outlines one after the other.
    pub triangles: Vec<[usize; 3]>,
    /// The chord it was flattened by, mm: finer than asked where that made lines cross.
    pub chord: f64,
}

impl Flattened {
    /// The same with sides no longer than this, mm.
    ///
    /// # Errors
    /// [`BodyError`] where rounding makes outlines cross.
    pub fn divided(&self, longest: f64) -> Result<Self, BodyError> {
        let cut = |outline: &Vec<Vertex>| -> Vec<Vertex> {
            let ends = |k: usize| (outline[k], outline[(k + 1) % outline.len()]);
            (0..outline.len()).map(ends).flat_map(|(from, to)| divided(from, to, longest)).collect()
        };
        let outlines: Vec<Vec<Vertex>> = self.outlines.iter().map(cut).collect();
        let triangles =
            triangulated(&outlines).map_err(|at| refused("outlines cross when their sides are divided", vec![at]))?;
        Ok(Self { outlines, triangles, chord: self.chord })
    }

    /// All vertices, one outline after the other.
    pub fn vertices(&self) -> impl Iterator<Item = &Vertex> {
        self.outlines.iter().flatten()
    }
}

/// A vertex, and others on the side that begins there.
fn divided(from: Vertex, to: Vertex, longest: f64) -> impl Iterator<Item = Vertex> {
    let n = (from.at.distance(to.at) / longest).ceil().clamp(1.0, 1e4) as usize;
    let way = (to.at - from.at).normalize_or_zero();
    (0..n).map(move |k| match k {
        0 => from,
        k => Vertex { at: from.at.lerp(to.at, k as f64 / n as f64), comes: way, leaves: way, bends: [0.0; 2], ..from },
    })
}

/// The outlines of picked regions, taken together: what has a picked region on both sides is no outline.
///
/// # Errors
/// [`BodyError`] where no region is picked, or where lines run so near each other that no chord keeps them apart.
pub fn flatten_regions(
    network: &Network,
    regions: &[Region],
    picked: &[usize],
    chord: f64,
) -> Result<Flattened, BodyError> {
    let outlines = outlines_of(network, regions, picked);
    if outlines.is_empty() {
        return Err(refused("no region is picked", vec![]));
    }
    /// Each time the chords cross they are made this much finer; a thousandth at last.
    const FINER: f64 = 0.25;
    let mut chord = chord;
    let mut crossed = Flat::ZERO;
    let sides = sides(network);
    for _ in 0..6 {
        let outlines: Vec<Vec<Vertex>> = outlines.iter().map(|o| vertices(network, &sides, o, chord)).collect();
        match triangulated(&outlines) {
            Ok(triangles) => return Ok(Flattened { outlines, triangles, chord }),
            Err(at) => crossed = at,
        }
        chord *= FINER;
    }
    let why = "lines run nearer to each other here than any chord tells apart";
    Err(refused(why, vec![crossed]))
}

/// The ways round what is picked. Where two of them touch at a place they stay two.
fn outlines_of(network: &Network, regions: &[Region], picked: &[usize]) -> Vec<Vec<Side>> {
    let mut has = vec![[false; 2]; network.pieces.len()];
    for &(piece, back) in picked.iter().flat_map(|r| &regions[*r].outlines).flatten() {
        has[piece][usize::from(back)] = true;
    }
    let borders = |(piece, back): Side| has[piece][usize::from(back)] && !has[piece][usize::from(!back)];
    let mut taken = vec![[false; 2]; network.pieces.len()];
    let mut outlines = Vec::new();
    for start in (0..network.pieces.len()).flat_map(|p| [(p, false), (p, true)]) {
        let (mut outline, mut side) = (Vec::new(), start);
        while borders(side) && !taken[side.0][usize::from(side.1)] {
            taken[side.0][usize::from(side.1)] = true;
            outline.push(side);
            side = onward(network, side, &borders);
        }
        if !outline.is_empty() {
            outlines.push(outline);
        }
    }
    outlines
}

/// The border to go on with: the first one to the left, so that what only touches stays apart.
fn onward(network: &Network, (piece, back): Side, borders: &impl Fn(Side) -> bool) -> Side {
    let p = &network.pieces[piece];
    let round = &network.round[if back { p.from } else { p.to }];
    let at = round.iter().position(|e| *e == (piece, !back)).unwrap_or(0);
    let before = (1..=round.len()).map(|k| round[(at + round.len() - k) % round.len()]);
    before.into_iter().find(|side| borders(*side)).unwrap_or((piece, back))
}

fn bend(span: &Span, share: f64) -> f64 {
    let (first, second) = span.slopes(share);
    let speed = first.length();
    if speed > 0.0 { first.perp_dot(second) / (speed * speed * speed) } else { 0.0 }
}

/// The face each piece makes. A letter's outline goes on smoothly from straight strokes to bends: those are flat faces and round
/// ones all the same, the first with the number of the curve, the others numbered after all curves.
fn sides(network: &Network) -> Vec<usize> {
    /// Straight pieces of one curve that turn by less, as a sine, are one that others cut.
    const STRAIGHT: f64 = 1e-9;
    let is_line = |p: &Piece| matches!(p.span.form, Form::Line { .. });
    let mut has = vec![[false; 2]; network.curves.len()];
    network.pieces.iter().for_each(|p| has[p.curve][usize::from(is_line(p))] = true);
    let goes_on = |b: &Piece, p: &Piece| match (is_line(b), is_line(p)) {
        (true, true) => b.span.direction(1.0).perp_dot(p.span.direction(0.0)).abs() < STRAIGHT,
        (b, p) => b == p,
    };
    let mut sides: Vec<usize> = Vec::new();
    let mut next = network.curves.len();
    for (n, p) in network.pieces.iter().enumerate() {
        let before = n.checked_sub(1).map(|n| &network.pieces[n]).filter(|b| b.curve == p.curve);
        sides.push(match before {
            Some(b) if has[p.curve] != [true; 2] || goes_on(b, p) => sides[n - 1],
            Some(_) => {
                next += 1;
                next - 1
            }
            None => p.curve,
        });
    }
    sides
}

fn vertices(network: &Network, sides: &[usize], outline: &[Side], chord: f64) -> Vec<Vertex> {
    let mut all: Vec<Vertex> = Vec::new();
    // How the side before arrives; the last one's arrival is put to the first vertex in the end.
    let mut arrives: Option<(Flat, f64)> = None;
    for &(piece, back) in outline {
        let (span, p) = (network.side((piece, back)), &network.pieces[piece]);
        let leaves = (span.direction(0.0), bend(&span, 0.0));
        let comes = arrives.unwrap_or(leaves);
        let at = network.places[if back { p.to } else { p.from }];
        let face = sides[piece];
        all.push(Vertex {
            at,
            curve: p.curve,
            side: face,
            comes: comes.0,
            leaves: leaves.0,
            bends: [comes.1, leaves.1],
        });
        let mut shares = p.span.shares(chord);
        shares.pop();
        if back {
            shares.reverse();
        }
        for t in shares {
            let along = if back { 1.0 - t } else { t };
            let (way, bends) = (span.direction(along), bend(&span, along));
            // Both ways along a piece give the same points.
            all.push(Vertex {
                at: p.span.at(t),
                curve: p.curve,
                side: face,
                comes: way,
                leaves: way,
                bends: [bends; 2],
            });
        }
        arrives = Some((span.direction(1.0), bend(&span, 1.0)));
    }
    if let (Some(first), Some((way, bends))) = (all.first_mut(), arrives) {
        (first.comes, first.bends[0]) = (way, bends);
    }
    all
}

/// The triangles between outlines, or where they cross.
pub(super) fn triangulated(outlines: &[Vec<Vertex>]) -> Result<Vec<[usize; 3]>, Flat> {
    // Where outlines touch they have one point in common: named once, given back by the outline it was asked for.
    let mut number = rustc_hash::FxHashMap::default();
    let (mut points, mut names) = (Vec::new(), Vec::new());
    let mut named = Vec::new();
    for (n, v) in outlines.iter().flatten().enumerate() {
        let key = (v.at.x.to_bits(), v.at.y.to_bits());
        let name = *number.entry(key).or_insert_with(|| {
            points.push(v.at.to_array());
            names.push(n);
            points.len() - 1
        });
        named.push(name);
    }
    let mut next = named.iter().copied();
    let loops: Vec<Vec<usize>> = outlines.iter().map(|o| next.by_ref().take(o.len()).collect()).collect();
    // Two sides on one chord, as of a lens thinner than it: nothing would be left between.
    let mut sides = rustc_hash::FxHashSet::default();
    for (k, outline) in loops.iter().flat_map(|o| (0..o.len()).map(move |k| (k, o))) {
        let (a, b) = (outline[k], outline[(k + 1) % outline.len()]);
        if !sides.insert((a.min(b), a.max(b))) {
            return Err((Flat::from(points[a]) + Flat::from(points[b])) * 0.5);
        }
    }
    let triangles = triangulate_flat(&points, &loops).map_err(|e| match e {
        FlatError::Crosses { at, .. } => Flat::from(at),
        FlatError::Coincides { point } => Flat::from(points[point]),
    })?;
    Ok(apart(triangles, &names, &named, outlines))
}

/// Gives triangles at shared points the vertex of the outline they lie at, so that bodies that touch stay bodies of their own.
fn apart(triangles: Vec<[usize; 3]>, names: &[usize], named: &[usize], outlines: &[Vec<Vertex>]) -> Vec<[usize; 3]> {
    if names.len() == named.len() {
        return triangles.into_iter().map(|t| t.map(|i| names[i])).collect();
    }
    // The vertex each border side begins and ends with, by the points it joins.
    let mut begin = rustc_hash::FxHashMap::default();
    let mut from = 0;
    for outline in outlines {
        for k in 0..outline.len() {
            let (a, b) = (from + k, from + (k + 1) % outline.len());
            begin.insert((named[a], named[b]), (a, b));
        }
        from += outline.len();
    }
    let mut shared = vec![0_usize; names.len()];
    named.iter().for_each(|n| shared[*n] += 1);
    // Round a shared point triangles hang together by the sides between them; a border side names the vertex for all of a fan.
    let mut at_side = rustc_hash::FxHashMap::default();
    for (t, corners) in triangles.iter().enumerate() {
        for k in 0..3 {
            at_side.insert((corners[k], corners[(k + 1) % 3]), t);
        }
    }
    let mut out: Vec<[usize; 3]> = Vec::with_capacity(triangles.len());
    for corners in &triangles {
        out.push([0, 1, 2].map(|k| {
            let point = corners[k];
            if shared[point] == 1 {
                return names[point];
            }
            // Turn round the point from triangle to triangle until a border side leaves it.
            let (mut a, mut b) = (point, corners[(k + 1) % 3]);
            for _ in 0..triangles.len() {
                if let Some((vertex, _)) = begin.get(&(a, b)) {
                    return *vertex;
                }
                let Some(&t) = at_side.get(&(b, a)) else { break };
                let Some(at) = triangles[t].iter().position(|c| *c == point) else { break };
                (a, b) = (point, triangles[t][(at + 1) % 3]);
            }
            names[point]
        }));
    }
    out
}

/// As [`chain_points`] for a chain that sheets are made of.
///
/// # Errors
/// [`BodyError`] where the chain crosses itself.
pub fn flatten_chain(network: &Network, chain: &Chain, chord: f64) -> Result<Vec<(Flat, usize)>, BodyError> {
    let points = chain_points(network, chain, chord);
    refuse_crossing(&points, chain.closed)?;
    Ok(points)
}

/// The points of a chain, each with the curve of the side that begins there; the last point of an open one begins none.
pub fn chain_points(network: &Network, chain: &Chain, chord: f64) -> Vec<(Flat, usize)> {
    let mut points: Vec<(Flat, usize)> = Vec::new();
    for &(curve, back) in &chain.curves {
        let spans = &network.curves[curve].spans;
        let run: Vec<Span> = if back { spans.iter().rev().map(Span::reversed).collect() } else { spans.clone() };
        for span in run {
            // Where a span goes on from the last one its beginning is that one's end.
            if points.is_empty() {
                points.push((span.from(), curve));
            } else if let Some(last) = points.last_mut() {
                last.1 = curve;
            }
            points.extend(span.shares(chord).into_iter().map(|t| (span.at(t), curve)));
        }
    }
    if chain.closed {
        points.pop();
    }
    points
}

fn refuse_crossing(points: &[(Flat, usize)], closed: bool) -> Result<(), BodyError> {
    let count = if closed { points.len() } else { points.len() - 1 };
    let side = |k: usize| [points[k].0, points[(k + 1) % points.len()].0];
    let lifted = |p: Flat| Point::new(p.x, p.y, 0.0);
    let bvh = Bvh::new((0..count).map(|k| Aabb::of(side(k).map(lifted))).collect());
    for k in 0..count {
        let mut crossed = None;
        let _ = bvh.overlapping(bvh.item_box(k as u32), |m| {
            let m = m as usize;
            let joined = m.abs_diff(k) <= 1 || closed && m.abs_diff(k) + 1 == count;
            if m > k && !joined {
                let ([a, b], [c, d]) = (side(k), side(m));
                let left = |p: Flat, q: Flat, r: Flat| (q - p).perp_dot(r - p) > 0.0;
                if left(a, b, c) != left(a, b, d) && left(c, d, a) != left(c, d, b) {
                    crossed = Some((a + b) * 0.5);
                }
            }
            if crossed.is_some() { std::ops::ControlFlow::Break(()) } else { std::ops::ControlFlow::Continue(()) }
        });
        if let Some(at) = crossed {
            return Err(refused("the line crosses itself here", vec![at]));
        }
    }
    Ok(())
}
