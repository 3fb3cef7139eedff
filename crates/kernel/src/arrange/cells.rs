//! Joins the sides of pieces to cells of space and finds how often each solid winds round each cell.

use std::cmp::Ordering;
use std::collections::HashMap;
use std::ops::ControlFlow;

use rayon::prelude::*;

use super::exact::{LARGEST, Spot};
use super::near::{Patch, leaving};
use super::pieces::{Piece, Pieces, Soup};
use crate::inside::{Crossing, WAYS, crossing};
use crate::{Bvh, Cancelled, Point, Progress, UnionFind};

/// Walls with the cells beside them.
pub(super) struct Space {
    /// Pieces; of those that lie on each other only the first.
    pub walls: Vec<Piece>,
    /// For each wall the cell before and behind it.
    pub beside: Vec<[u32; 2]>,
    /// For each cell how often each solid winds round it.
    pub winding: Vec<i16>,
    /// For each cell the volume its walls enclose, in cubed steps of the grid; below 0 for what is outside of a connected body.
    /// What other bodies take of it is not taken off.
    pub volume: Vec<f64>,
}

/// Pieces that lie on each other, as one.
struct Facet {
    corners: [u32; 3],
    parent: u32,
    /// The first of its pieces.
    piece: u32,
    /// How much less often each solid winds round what is before it than round what is behind.
    steps: Vec<(u32, i16)>,
}

/// An edge of a facet: its ends, the lower first, the facet, and whether it runs from the lower to the higher.
type Side3 = (u32, u32, u32, bool);

/// Why there are no cells.
pub(super) enum Unfit {
    /// A solid is open there, in steps of the grid.
    Open { input: usize, at: Point },
    /// The first solid is not to be had as a patch: it is open elsewhere than along its border, of which such sides were cut.
    Border(Vec<(u32, u32)>),
}

impl Space {
    /// The cells of some pieces, or why there are none. The first `solids` inputs are
    /// solids, the others sheets. Of a patch only what of the first solid is near the others is among the pieces.
    pub fn new(
        soup: &Soup,
        cut: &Pieces,
        solids: usize,
        patch: Option<&Patch>,
        progress: &Progress,
    ) -> Result<Result<Self, Unfit>, Cancelled> {
        let facets = facets(soup, cut, solids);
        let sides = sides(&facets, cut.spots.len());
        progress.check()?;
        let mut cells = UnionFind::new(facets.len() * 2);
        let mut bodies = UnionFind::new(facets.len());
        let mut kept = vec![];
        let mut torn = false;
        for fan in sides.chunk_by(|a, b| (a.0, a.1) == (b.0, b.1)) {
            if let Some(input) = open(&facets, fan) {
                if fan.len() == 1 && patch.is_some_and(|p| p.is_border((fan[0].0, fan[0].1))) {
                    // What is far goes on here and keeps its two sides apart.
                    kept.push((fan[0].0, fan[0].1));
                    continue;
                }
                if patch.is_some() && input == 0 {
                    torn = true;
                    continue;
                }
                let [a, b] = [fan[0].0, fan[0].1].map(|p| cut.spots[p as usize].near);
                return Ok(Err(Unfit::Open { input: input as usize, at: a.midpoint(b) }));
            }
            let order = round(soup, &cut.spots, &facets, fan);
            for (n, here) in order.iter().enumerate() {
                // At the rim of a sheet this is the same facet: the space goes round it.
                let next = order[(n + 1) % order.len()];
                // Counter-clockwise of a facet that runs along the edge is its front.
                let ahead = here.2 * 2 + u32::from(!here.3);
                let behind = next.2 * 2 + u32::from(next.3);
                cells.union(ahead, behind);
                bodies.union(here.2, next.2);
            }
        }
        if let Some(patch) = patch.filter(|p| torn || p.border.len() != kept.len()) {
            // Sides are in order, and so are those of the border.
            let lost = patch.border.iter().copied().filter(|side| kept.binary_search(side).is_err()).collect();
            return Ok(Err(Unfit::Border(lost)));
        }
        let (cell_of, count) = cells.number_sets();
        let (body_of, bodies) = bodies.number_sets();
        progress.report(0.4, "telling inside from outside")?;
        let seeds =
            if solids == 0 { vec![] } else { seeds(soup, cut, &facets, (&body_of, bodies), solids, patch, progress)? };
        let winding = spread(&facets, &cell_of, count, &seeds, solids);
        // Measured from a point of each body, so that places far from the origin cost no digits.
        let mut origin = vec![Point::ZERO; bodies];
        for (n, f) in facets.iter().enumerate() {
            origin[body_of[n] as usize] = cut.spots[f.corners[0] as usize].near;
        }
        let beside = cell_of.chunks_exact(2).map(|c| [c[0], c[1]]).collect();
        let walls = facets.iter().map(|f| cut.pieces[f.piece as usize]).collect();
        // Signed by the side: walls face out of what lies behind them.
        let mut volume = vec![0.0; count];
        for (n, f) in facets.iter().enumerate() {
            let from = origin[body_of[n] as usize];
            let [a, b, c] = f.corners.map(|i| cut.spots[i as usize].near - from);
            let sixfold = a.dot(b.cross(c));
            volume[cell_of[2 * n + 1] as usize] += sixfold / 6.0;
            volume[cell_of[2 * n] as usize] -= sixfold / 6.0;
        }
        Ok(Ok(Self { walls, beside, winding, volume }))
    }
}

/// The sides of all facets, ordered by their ends.
fn sides(facets: &[Facet], points: usize) -> Vec<Side3> {
    let of = |n: usize| {
        let c = facets[n].corners;
        [0, 1, 2].map(|k| {
            let (a, b) = (c[k], c[(k + 1) % 3]);
            (a.min(b), a.max(b), n as u32, a < b)
        })
    };
    // Put down by their lower ends, then each handful put in order.
    let mut first = vec![0u32; points + 1];
    for f in facets {
        for k in 0..3 {
            first[f.corners[k].min(f.corners[(k + 1) % 3]) as usize + 1] += 1;
        }
    }
    for p in 0..points {
        first[p + 1] += first[p];
    }
    let mut sides = vec![(0, 0, 0, false); facets.len() * 3];
    let mut next = first.clone();
    for n in 0..facets.len() {
        for side in of(n) {
            let at = &mut next[side.0 as usize];
            sides[*at as usize] = side;
            *at += 1;
        }
    }
    let mut rest = &mut sides[..];
    let mut handfuls = Vec::with_capacity(points);
    for p in 0..points {
        let (own, others) = rest.split_at_mut((first[p + 1] - first[p]) as usize);
        handfuls.push(own);
        rest = others;
    }
    handfuls.into_par_iter().for_each(<[Side3]>::sort_unstable);
    sides
}

/// Pieces over the same corners become one facet.
fn facets(soup: &Soup, cut: &Pieces, solids: usize) -> Vec<Facet> {
    let pieces = &cut.pieces;
    let step_of = |p: &Piece| (soup.origin[p.parent as usize].0, 1);
    let is_solid = |s: &(u32, i16)| (s.0 as usize) < solids;
    let sorted = |p: &Piece| {
        let mut c = p.corners;
        c.sort_unstable();
        c
    };
    let mut order: Vec<([u32; 3], u32)> =
        pieces[..cut.cut].par_iter().enumerate().map(|(n, p)| (sorted(p), n as u32)).collect();
    order.par_sort_unstable();
    let met = order.chunk_by(|a, b| a.0 == b.0).map(|same| {
        let first = pieces[same[0].1 as usize];
        let mut steps: Vec<(u32, i16)> = Vec::with_capacity(1);
        for &(_, n) in same {
            let p = pieces[n as usize];
            let input = soup.origin[p.parent as usize].0;
            let alike = |k: usize| p.corners[k] == first.corners[0] && p.corners[(k + 1) % 3] == first.corners[1];
            let step = if (0..3).any(alike) { 1 } else { -1 };
            match steps.iter_mut().find(|s| s.0 == input) {
                Some(s) => s.1 += step,
                None => steps.push((input, step)),
            }
        }
        steps.retain(|s| s.1 != 0 && is_solid(s));
        Facet { corners: first.corners, parent: first.parent, piece: same[0].1, steps }
    });
    // Whole triangles meet nothing, so no other lies on them.
    let whole = (cut.cut..pieces.len()).map(|n| {
        let p = pieces[n];
        let steps = Some(step_of(&p)).filter(is_solid).into_iter().collect();
        Facet { corners: p.corners, parent: p.parent, piece: n as u32, steps }
    });
    met.chain(whole).collect()
}

/// The first solid whose facets do not close along an edge.
fn open(facets: &[Facet], fan: &[Side3]) -> Option<u32> {
    if let [a, b] = fan
        && a.3 != b.3
        && facets[a.2 as usize].steps == facets[b.2 as usize].steps
    {
        return None;
    }
    let mut sums: Vec<(u32, i32)> = Vec::new();
    for side in fan {
        for &(input, step) in &facets[side.2 as usize].steps {
            let step = i32::from(step) * if side.3 { 1 } else { -1 };
            match sums.iter_mut().find(|s| s.0 == input) {
                Some(s) => s.1 += step,
                None => sums.push((input, step)),
            }
        }
    }
    sums.into_iter().find(|s| s.1 != 0).map(|s| s.0)
}

/// The facets at an edge in the order in which they stand round it, counter-clockwise seen against its direction.
fn round(soup: &Soup, spots: &[Spot], facets: &[Facet], fan: &[Side3]) -> Vec<Side3> {
    if fan.len() <= 2 {
        return fan.to_vec();
    }
    // On which side of one the other stands: 1 when counter-clockwise by less than half a turn.
    let side = |of: &Side3, other: &Side3| {
        let f = &facets[other.2 as usize];
        // Both ends of the edge are corners of it: what is left is the third.
        let apex = f.corners[0] ^ f.corners[1] ^ f.corners[2] ^ other.0 ^ other.1;
        let s = soup.planes[facets[of.2 as usize].parent as usize].side(&spots[apex as usize]);
        if of.3 { s } else { -s }
    };
    let first = fan[0];
    // The first itself, less than half a turn on, half a turn on, more.
    let mut others: Vec<(u8, Side3)> = fan[1..]
        .iter()
        .map(|s| {
            let rank = match side(&first, s) {
                1 => 1,
                0 => 2,
                _ => 3,
            };
            (rank, *s)
        })
        .collect();
    others.sort_by(|(r, a), (s, b)| {
        r.cmp(s).then_with(|| match side(a, b) {
            1 => Ordering::Less,
            -1 => Ordering::Greater,
            _ => a.2.cmp(&b.2),
        })
    });
    std::iter::once(first).chain(others.into_iter().map(|(_, s)| s)).collect()
}

/// For each connected body a facet, and how often each solid winds round what is before it.
fn seeds(
    soup: &Soup,
    cut: &Pieces,
    facets: &[Facet],
    (body_of, bodies): (&[u32], usize),
    solids: usize,
    patch: Option<&Patch>,
    progress: &Progress,
) -> Result<Vec<(u32, Vec<i16>)>, Cancelled> {
    // A sealed part tells by itself on which side of its facets it is, so of a patch one of those is taken where there is one.
    let own_step = |f: &Facet| f.steps.iter().find(|s| patch.is_some_and(|p| p.sealed) && s.0 == 0).map(|s| s.1);
    let mut widest: Vec<((bool, f64), u32)> = vec![((false, -1.0), 0); bodies];
    for (n, f) in facets.iter().enumerate() {
        let [a, b, c] = f.corners.map(|i| cut.spots[i as usize].near);
        let longest = a.distance(b).max(b.distance(c)).max(c.distance(a));
        let height = (b - a).cross(c - a).length() / longest.max(f64::MIN_POSITIVE);
        let held = &mut widest[body_of[n] as usize];
        let rank = (own_step(f).is_some(), height);
        if rank > held.0 {
            *held = (rank, n as u32);
        }
    }
    let bvh = &cut.bvh;
    widest
        .par_iter()
        .map(|&((_, height), n)| {
            progress.check()?;
            let f = &facets[n as usize];
            let middle = f.corners.iter().map(|i| cut.spots[*i as usize].near).sum::<Point>() / 3.0;
            let [x, y, z] = soup.planes[f.parent as usize].normal.map(|x| x as f64);
            let normal = Point::new(x, y, z).normalize_or_zero();
            let before = just_before((soup, bvh, patch), f.parent, middle, normal, height);
            let own = own_step(f);
            let mut winding = winding_at(soup, bvh, before, solids, patch.filter(|_| own.is_none()));
            if let Some(step) = own {
                winding[0] = i16::from(step < 0);
            }
            Ok((n, winding))
        })
        .collect()
}

/// A point before a triangle with nothing between it and what lies behind `middle` but triangles in the same plane.
fn just_before(
    (soup, bvh, patch): (&Soup, &Bvh, Option<&Patch>),
    parent: u32,
    middle: Point,
    normal: Point,
    height: f64,
) -> Point {
    const TRIES: usize = 30;
    let plane = &soup.planes[parent as usize];
    let mut away = height * 0.25;
    for _ in 0..TRIES {
        let (before, behind) = (middle + normal * away, middle - normal * away);
        let clear = bvh.along_segment(behind, before, |t| {
            let corners = soup.triangles[t as usize];
            if t == parent || corners.iter().all(|v| plane.side_of(soup.corners[*v as usize]) == 0) {
                return ControlFlow::Continue(());
            }
            match crossing(soup.places(t), behind, before) {
                Crossing::None => ControlFlow::Continue(()),
                _ => ControlFlow::Break(()),
            }
        });
        // What lies beyond a sealed patch is farther off.
        if clear.is_continue() && patch.is_none_or(|p| p.sealed || p.is_clear(behind, before)) {
            return before;
        }
        away *= 0.25;
    }
    middle + normal * away
}

/// How often each solid winds round a point that lies on none of them: signed crossings on a way out. What of the first solid
/// lies beyond a patch counts unless it is left out.
fn winding_at(soup: &Soup, bvh: &Bvh, p: Point, solids: usize, beyond: Option<&Patch>) -> Vec<i16> {
    // Out of what lies beyond the patch, too.
    let reach = ((bvh.bounds().diagonal() + (p - bvh.bounds().centre()).length()) * 2.0 + 1.0).max(LARGEST * 8.0);
    for way in WAYS {
        let out = p + way * reach;
        let mut sum = vec![0i16; solids];
        let clean = bvh.along_segment(p, out, |t| {
            let input = soup.origin[t as usize].0 as usize;
            leaving(soup.places(t), p, out, |by| sum.get_mut(input).into_iter().for_each(|sum| *sum += by))
        });
        let far = beyond.map_or(Some(0), |patch| patch.winding_along(p, out));
        if let (true, Some(far)) = (clean.is_continue(), far) {
            sum.first_mut().into_iter().for_each(|sum| *sum += far);
            return sum;
        }
    }
    vec![0; solids]
}

/// The windings of all cells, from those before the seeds.
fn spread(facets: &[Facet], cell_of: &[u32], count: usize, seeds: &[(u32, Vec<i16>)], solids: usize) -> Vec<i16> {
    // One facet between any two cells tells how they differ.
    let mut between: HashMap<(u32, u32), u32> = HashMap::new();
    let mut last = (u32::MAX, u32::MAX);
    for (n, cells) in cell_of.chunks_exact(2).enumerate() {
        let pair = (cells[0], cells[1]);
        if pair != last {
            between.entry(pair).or_insert(n as u32);
            last = pair;
        }
    }
    let mut at: Vec<(u32, u32)> =
        between.values().flat_map(|n| [2 * n, 2 * n + 1]).map(|side| (cell_of[side as usize], side)).collect();
    at.sort_unstable();
    let mut winding = vec![0i16; count * solids];
    let mut known = vec![false; count];
    let mut todo = Vec::new();
    for (facet, before) in seeds {
        let cell = cell_of[2 * *facet as usize];
        winding[cell as usize * solids..][..solids].copy_from_slice(before);
        known[cell as usize] = true;
        todo.push(cell);
    }
    while let Some(cell) = todo.pop() {
        let first = at.partition_point(|(c, _)| *c < cell);
        for &(_, side) in at[first..].iter().take_while(|(c, _)| *c == cell) {
            let other = cell_of[side as usize ^ 1];
            if std::mem::replace(&mut known[other as usize], true) {
                continue;
            }
            let (from, to) = (cell as usize * solids, other as usize * solids);
            for i in 0..solids {
                winding[to + i] = winding[from + i];
            }
            for &(input, step) in &facets[side as usize / 2].steps {
                // From before a facet to behind it the solid winds once more.
                winding[to + input as usize] += if side % 2 == 0 { step } else { -step };
            }
            todo.push(other);
        }
    }
    winding
}
