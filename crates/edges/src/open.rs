//! Edges of sheets: nothing is inside of one, so it is cut by the strip, what holds the edges goes, and of the strip what lies
//! between the faces comes.

use std::collections::{HashMap, HashSet};

use nimbet_kernel::arrange::{Arrangement, Parted};
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::{nearest_on_segment, nearest_on_triangle};
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology};

use crate::carve::{Carved, EdgeError};
use crate::over::Vanished;
use crate::plan::{Cause, Planner, Spine, Trouble, Wanted};
use crate::sheet::{Parting, parting};

/// A sheet with some runs of its edges rounded or chamfered.
pub(crate) fn carve_sheet(planner: &Planner<'_>, wanted: &[Wanted], progress: &Progress) -> Result<Carved, EdgeError> {
    let graph = planner.graph;
    progress.report(0.0, "following the edges")?;
    let spines = planner.spines(wanted)?;
    let bvh = triangle_bvh(graph.mesh);
    let parting = parting(planner, &spines, &bvh)?;
    let Parting { sheet, body, caps, .. } = &parting;
    let is_cap = |t: usize| caps.iter().any(|(cap, _)| *cap == sheet.face_of()[t]);
    let (strips, fences) = (sheet.retain_triangles(|t| !is_cap(t)), sheet.retain_triangles(is_cap));
    progress.report(0.3, "cutting along the edges")?;
    let all = Arrangement::new(&[], &[body, &strips, &fences], &progress.stage(0.3, 0.9))?;
    let [own, strip] = [0, 1].map(|input| all.parted(input));
    let (own, strip) = (own?, strip?);
    let stays = without_edges(planner, &spines, &own).map_err(EdgeError::Trouble)?;
    let comes = between_faces(&spines, (&strip, &parting), &stays, body.next_face().0)?;
    let first_new = body.next_face().0;
    let mesh = all.without_splinters(comes, &progress.stage(0.9, 1.0))?;
    Ok(Carved { mesh, first_new, vanished: Vanished::under(&spines), passed: vec![] })
}

/// The sheet without the pieces that hold the edges.
fn without_edges(planner: &Planner<'_>, spines: &[Spine], own: &Parted) -> Result<Mesh, Trouble> {
    let graph = planner.graph;
    let near = planner.precise * 16.0;
    let mut goes = vec![false; own.pieces];
    let bvh = triangle_bvh(&own.mesh);
    for spine in spines {
        for edge in spine.edges(graph) {
            let [a, b] = graph.ends(edge).map(|v| graph.place(v));
            // Each side of the edge: the triangles that have a side along it.
            let along = |t: u32| {
                let corners = own.mesh.corners(t as usize);
                let on = corners.iter().filter(|p| nearest_on_segment(**p, a, b).1 <= near * near).count();
                on >= 2
            };
            let mut found = false;
            let _ = bvh.overlapping(&nimbet_kernel::Aabb::of([a, b]).grown(near), |t| {
                if along(t) {
                    goes[own.piece_of[t as usize] as usize] = true;
                    found = true;
                }
                std::ops::ControlFlow::Continue(())
            });
            if !found {
                return Err(Trouble { run: spine.wanted.run, cause: Cause::Leaks, at: a.midpoint(b) });
            }
        }
    }
    // What goes reaches no farther than the sections do.
    let farthest = spines.iter().map(Spine::reach).fold(0.0, f64::max) * 4.0;
    let off = |p: Point| {
        let places = spines.iter().flat_map(|s| {
            s.places
                .windows(2)
                .map(|w| [w[0].at, w[1].at])
                .chain((s.closed && s.places.len() > 1).then(|| [s.places[s.places.len() - 1].at, s.places[0].at]))
        });
        places.map(|[a, b]| nearest_on_segment(p, a, b).1).fold(f64::INFINITY, f64::min).sqrt()
    };
    for t in (0..own.mesh.triangles().len()).filter(|t| goes[own.piece_of[*t] as usize]) {
        if let Some(at) = own.mesh.corners(t).into_iter().find(|p| off(*p) > farthest) {
            return Err(Trouble { run: spines[0].wanted.run, cause: Cause::Leaks, at });
        }
    }
    Ok(own.mesh.retain_triangles(|t| !goes[own.piece_of[t] as usize]))
}

/// The sheet with the pieces of the strips that lie between the faces, facing the same way.
fn between_faces(
    spines: &[Spine],
    (strip, parting): (&Parted, &Parting),
    stays: &Mesh,
    first_new: u32,
) -> Result<Mesh, EdgeError> {
    let bvh = triangle_bvh(&strip.mesh);
    let mut comes = vec![false; strip.pieces];
    for spine in spines {
        for (a, b) in spine.followed() {
            let [a, b] = [a, b].map(|k| spine.stations[k].points(2)[1]);
            let at = a.midpoint(b);
            let square = |t: u32| Some(nearest_on_triangle(at, strip.mesh.corners(t as usize)).distance_squared(at));
            if let Some((t, _)) = bvh.nearest(at, f64::INFINITY, square) {
                comes[strip.piece_of[t as usize] as usize] = true;
            }
        }
    }
    let (mut points, mut triangles, mut faces) = stays.clone().into_parts();
    let bits = |p: Point| p.to_array().map(f64::to_bits);
    let mut names: HashMap<[u64; 3], u32> = points.iter().enumerate().map(|(n, p)| (bits(*p), n as u32)).collect();
    // The sides at which the sheet is open now, as its triangles have them.
    let topology = Topology::new(stays.triangles(), stays.points().len());
    let open: HashSet<(u32, u32)> = topology.naked_halves().into_iter().map(|h| topology.ends(h)).collect();
    let kept = (0..strip.mesh.triangles().len()).filter(|t| comes[strip.piece_of[*t] as usize]);
    let mut new: Vec<[u32; 3]> = Vec::new();
    for t in kept {
        new.push(strip.mesh.corners(t).map(|p| {
            *names.entry(bits(p)).or_insert_with(|| {
                points.push(p);
                points.len() as u32 - 1
            })
        }));
        faces.push(FaceId(first_new + parting.whole(strip.mesh.face_of()[t]).0));
    }
    triangles.extend(facing_alike(new, &open));
    Ok(Mesh::new(points, triangles, faces)?)
}

fn sides([a, b, c]: [u32; 3]) -> [(u32, u32); 3] {
    [(a, b), (b, c), (c, a)]
}

/// Triangles turned so that they face as those with the open sides do, and each other.
fn facing_alike(triangles: Vec<[u32; 3]>, open: &HashSet<(u32, u32)>) -> Vec<[u32; 3]> {
    let mut triangles = triangles;
    let mut at: HashMap<(u32, u32), Vec<usize>> = HashMap::new();
    for (t, corners) in triangles.iter().enumerate() {
        for (a, b) in sides(*corners) {
            at.entry((a.min(b), a.max(b))).or_default().push(t);
        }
    }
    let mut known = vec![false; triangles.len()];
    // Beside an open side a triangle runs the other way.
    let begins = |t: &usize| sides(triangles[*t]).iter().any(|s| open.contains(s) || open.contains(&(s.1, s.0)));
    let mut todo: Vec<usize> = (0..triangles.len()).filter(begins).collect();
    for t in &todo {
        known[*t] = true;
        if sides(triangles[*t]).iter().any(|s| open.contains(s)) {
            triangles[*t].swap(1, 2);
        }
    }
    while let Some(t) = todo.pop() {
        for side in sides(triangles[t]) {
            for other in at.get(&(side.0.min(side.1), side.0.max(side.1))).into_iter().flatten() {
                if !std::mem::replace(&mut known[*other], true) {
                    if sides(triangles[*other]).contains(&side) {
                        triangles[*other].swap(1, 2);
                    }
                    todo.push(*other);
                }
            }
        }
    }
    triangles
}
