//! Turning a surface so that its sides mean something, whatever way its pieces were wound.

use std::collections::{HashMap, HashSet};

use rayon::prelude::*;

use crate::crossings::triangle_bvh;
use crate::inside::shells_around;
use crate::measure::measure_triangles;
use crate::topology::EdgeUse;
use crate::winding::{agreeing_pieces, seen_from_outside};
use crate::{Bvh, Cancelled, Mesh, Progress, Topology};

/// A surface without what is there twice.
pub(super) struct Single {
    /// Of triangles over the same three points only the first.
    pub mesh: Mesh,
    /// Whether copies of a triangle were wound both ways alike often, so that together they say nothing of a side.
    pub cancels: Vec<bool>,
}

impl Single {
    pub fn of(mesh: &Mesh) -> Self {
        let mut copies: HashMap<[u32; 3], (usize, i32)> = HashMap::with_capacity(mesh.triangles().len());
        let mut first = Vec::new();
        for (n, t) in mesh.triangles().iter().enumerate() {
            let mut key = *t;
            key.sort_unstable();
            let k = t.iter().position(|c| *c == key[0]).unwrap_or(0);
            let way = if t[(k + 1) % 3] == key[1] { 1 } else { -1 };
            let held = copies.entry(key).or_insert_with(|| {
                first.push(key);
                (n, 0)
            });
            held.1 += way;
        }
        let firsts: HashSet<usize> = copies.values().map(|(n, _)| *n).collect();
        let mesh = mesh.retain_triangles(|t| firsts.contains(&t));
        let cancels = first.iter().map(|key| copies[key].1 == 0).collect();
        Self { mesh, cancels }
    }
}

/// A surface turned outward, and which of its triangles say nothing of a side.
pub(super) struct Facing {
    pub mesh: Mesh,
    pub mute: Vec<bool>,
}

/// A copy in which the sides agree within each connected piece and each piece faces outward. Closed pieces do by their volume;
/// what lies wholly within another closed piece keeps the way it stands to that one: a void stays a void, a body within a
/// body stays one. Open pieces face the way from which more of them is seen from outside; those that are seen on both sides alike,
/// or not at all, say nothing of a side, and neither do those whose triangles all cancel: they are walls between bodies.
///
/// # Errors
/// [`Cancelled`].
pub(super) fn facing_out(single: &Single, progress: &Progress) -> Result<Facing, Cancelled> {
    let mesh = &single.mesh;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let (piece_of, mut turned, pieces) = agreeing_pieces(mesh, &topology);
    let mut members: Vec<Vec<u32>> = vec![Vec::new(); pieces];
    for (t, &piece) in piece_of.iter().enumerate() {
        members[piece as usize].push(t as u32);
    }
    // The way most of each piece was wound stays.
    for piece in &members {
        let area = |t: &&u32| mesh.area_vector(**t as usize).length();
        let whole: f64 = piece.iter().map(|t| area(&t)).sum();
        let against: f64 = piece.iter().filter(|t| turned[**t as usize]).map(|t| area(&t)).sum();
        if against * 2.0 > whole {
            piece.iter().for_each(|t| turned[*t as usize] ^= true);
        }
    }
    let mut closed = vec![true; pieces];
    for edge in 0..topology.edge_count() as u32 {
        if !matches!(topology.edge_use(edge), EdgeUse::Regular | EdgeUse::Clashing) {
            topology.halves(edge).iter().for_each(|h| closed[piece_of[*h as usize / 3] as usize] = false);
        }
    }
    let mut out = mesh.clone();
    out.reverse_triangles(|t| turned[t]);
    let bvh = triangle_bvh(&out);
    let volume: Vec<f64> = members.par_iter().map(|m| measure_triangles(&out, m).volume).collect();
    let around = within(&out, &bvh, &piece_of, &closed, &volume, &members, progress)?;
    progress.report(0.5, "looking from outside")?;
    // Whether each is turned over, and whether it is hidden.
    let turn: Vec<(bool, bool)> = (0..pieces)
        .into_par_iter()
        .map(|piece| {
            progress.check()?;
            if !closed[piece] {
                return Ok(faces_in(&out, &bvh, &members[piece], progress));
            }
            // The outermost of the pieces round it decides for all within.
            let mut root = piece;
            while let Some(outer) = around[root] {
                root = outer;
            }
            Ok((volume[root] < 0.0, false))
        })
        .collect::<Result<_, Cancelled>>()?;
    out.reverse_triangles(|t| turn[piece_of[t] as usize].0);
    let cancels = |p: usize| members[p].iter().all(|t| single.cancels[*t as usize]);
    let inner: Vec<bool> = (0..pieces).map(|p| !closed[p] && (turn[p].1 || cancels(p))).collect();
    let mute = piece_of.iter().map(|p| inner[*p as usize]).collect();
    Ok(Facing { mesh: out, mute })
}

/// Whether an open piece faces inward: whether more of its back is seen from outside; and whether that says nothing.
fn faces_in(mesh: &Mesh, bvh: &Bvh, piece: &[u32], progress: &Progress) -> (bool, bool) {
    /// What is seen on both sides alike, to this share of all looks, says nothing.
    const CLEAR: f64 = 0.005;
    let seen = seen_from_outside(mesh, bvh, piece, progress);
    (seen < 0.0, seen.abs() <= CLEAR)
}

/// For each closed piece the smallest closed piece that lies wholly round it.
fn within(
    mesh: &Mesh,
    bvh: &Bvh,
    piece_of: &[u32],
    closed: &[bool],
    volume: &[f64],
    members: &[Vec<u32>],
    progress: &Progress,
) -> Result<Vec<Option<usize>>, Cancelled> {
    /// Corners of a piece that must all lie within the other.
    const TRIED: usize = 12;
    if closed.iter().filter(|c| **c).count() < 2 {
        return Ok(vec![None; members.len()]);
    }
    members
        .par_iter()
        .enumerate()
        .map(|(piece, own)| {
            progress.check()?;
            if !closed[piece] {
                return Ok(None);
            }
            let corners = own.iter().step_by((own.len() / TRIED).max(1)).map(|t| mesh.corners(*t as usize)[0]);
            let mut round: Option<Vec<u32>> = None;
            for p in corners {
                // What touches another piece bounds no void in it.
                let here = shells_around(mesh, bvh, piece_of, p, piece as u32).unwrap_or_default();
                round = Some(match round {
                    None => here,
                    Some(all) => all.into_iter().filter(|p| here.contains(p)).collect(),
                });
            }
            let larger = |p: &u32| closed[*p as usize] && volume[*p as usize].abs() > volume[piece].abs();
            let round = round.unwrap_or_default().into_iter().filter(larger);
            let smallest =
                round.min_by(|a, b| volume[*a as usize].abs().total_cmp(&volume[*b as usize].abs()).then(a.cmp(b)));
            Ok(smallest.map(|p| p as usize))
        })
        .collect()
}
