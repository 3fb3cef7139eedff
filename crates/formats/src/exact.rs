//! Bodies with exact surfaces as triangles that follow them.

use std::io::Read;

use nimbet_brep::{Contents, Fineness, StepError, TessellateError, Tessellated, read_step, tessellate};
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology, weld};

use crate::errors::{Place, ReadError};
use crate::read::{FileBody, Held, Wanted};
use crate::units::LengthUnit;

/// The direction turns by no more than this from one point of a curve to the next, radians: 15°.
const ANGLE: f64 = 0.2618;
/// So many faces that are left open are told one by one.
const TOLD: usize = 5;

pub(crate) fn read(
    input: impl Read,
    wanted: &Wanted,
    progress: &Progress,
    notes: &mut Vec<String>,
) -> Result<Held, ReadError> {
    let contents = read_step(input, &progress.stage(0.0, 0.4)).map_err(unreadable)?;
    notes.extend(contents.notes.iter().cloned());
    let made = bodies(&contents, wanted, &progress.stage(0.4, 1.0))?;
    let known = LengthUnit::ALL.into_iter().find(|u| {
        let off = contents.to_millimetres / u.millimetres() - 1.0;
        off.abs() < 1e-9
    });
    if known.is_none() || contents.unit.contains("none") {
        notes.push(format!("its unit: {}", contents.unit));
    }
    let scale = if known.is_some() { 1.0 } else { contents.to_millimetres };
    let (mut points, mut triangles, mut face_of, mut bodies) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let mut faces = 0;
    for (n, item) in contents.items.iter().enumerate() {
        let from = triangles.len();
        if let Some(body) = made[item.body].as_ref().filter(|_| wanted.wants(n)) {
            let (first, place) = (points.len() as u32, item.placement);
            if triangles.len() + body.mesh.triangles().len() > wanted.limits.triangles {
                return Err(ReadError::TooManyTriangles { limit: wanted.limits.triangles });
            }
            points.extend(body.mesh.points().iter().map(|p| place.transform_point3(*p) * scale));
            triangles.extend(body.mesh.triangles().iter().map(|t| t.map(|c| c + first)));
            face_of.extend(body.mesh.face_of().iter().map(|f| FaceId(f.0 + faces)));
            tell_open(body, (&item.name, &|p| place.transform_point3(p) * scale), notes);
        }
        faces += contents.bodies[item.body].faces.len() as u32;
        bodies.push(FileBody { name: item.name.clone(), colour: item.colour, triangles: from..triangles.len() });
    }
    let mesh = Mesh::new(points, triangles, face_of)?;
    Ok(Held { mesh, bodies, unit: Some(known.unwrap_or(LengthUnit::Millimetre)) })
}

/// The triangles of each body that is wanted.
fn bodies(contents: &Contents, wanted: &Wanted, progress: &Progress) -> Result<Vec<Option<Tessellated>>, ReadError> {
    let fineness = Fineness { chord: wanted.chord / contents.to_millimetres, angle: ANGLE };
    let mut needed = vec![false; contents.bodies.len()];
    for (n, item) in contents.items.iter().enumerate() {
        needed[item.body] |= wanted.wants(n);
    }
    let mut left = wanted.limits.triangles;
    let mut made = Vec::with_capacity(needed.len());
    for (n, body) in contents.bodies.iter().enumerate() {
        if !needed[n] {
            made.push(None);
            continue;
        }
        let mut own = tessellate(body, &fineness, left, &progress.part(n, needed.len())).map_err(|e| match e {
            TessellateError::Cancelled(c) => c.into(),
            TessellateError::TooMany(_) => ReadError::TooManyTriangles { limit: wanted.limits.triangles },
            TessellateError::Mesh(e) => e.into(),
        })?;
        left -= own.mesh.triangles().len().min(left);
        own.mesh = closed_where_it_meets(own.mesh)?;
        made.push(Some(own));
    }
    Ok(made)
}

/// Where faces lie on each other point for point without sharing edges, they are joined, as in any file of triangles.
fn closed_where_it_meets(mesh: Mesh) -> Result<Mesh, ReadError> {
    let open = !Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty();
    if !open {
        return Ok(mesh);
    }
    let (points, triangles, face_of) = mesh.into_parts();
    Ok(weld::weld_mesh(&points, &triangles, face_of)?)
}

fn tell_open(body: &Tessellated, (name, place): (&str, &dyn Fn(Point) -> Point), notes: &mut Vec<String>) {
    for open in body.left_open.iter().take(TOLD) {
        let at = open.at.map_or_else(String::new, |p| {
            let p = place(p);
            format!(", at ({:.3}, {:.3}, {:.3})", p.x, p.y, p.z)
        });
        notes.push(format!("{name}: face {} ({}){at} is left open: {}", open.face + 1, open.kind, open.why));
    }
    if body.left_open.len() > TOLD {
        notes.push(format!("{name}: {} further faces are left open", body.left_open.len() - TOLD));
    }
}

fn unreadable(e: StepError) -> ReadError {
    match e {
        StepError::Cancelled(c) => c.into(),
        StepError::Io(e) => e.into(),
        StepError::Malformed(what) => {
            let (at, what) = placed(&what);
            ReadError::malformed(at, what)
        }
        e @ (StepError::Nothing(_) | StepError::TooMany) => ReadError::malformed(Place::Byte(0), e.to_string()),
    }
}

/// The line a message begins with, and the rest of it.
fn placed(told: &str) -> (Place, &str) {
    let line = told.split_once("line ").map(|(_, after)| {
        let digits: String = after.chars().take_while(char::is_ascii_digit).collect();
        digits.parse()
    });
    match (line, told.split_once(": ")) {
        (Some(Ok(line)), Some((_, what))) => (Place::Line(line), what),
        _ => (Place::Byte(0), told),
    }
}
