//! Bodies with exact surfaces as triangles that follow them; curves and triangles beside them as what they are.

use std::io::Read;

use nimbet_brep::{
    Contents, Fineness, Held as Of, Item, StepError, TessellateError, Tessellated, read_step, tessellate,
};
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology, weld};
use nimbet_profile::space::Strand;

use crate::errors::{Place, ReadError};
use crate::read::{FileBody, Held, Wanted};
use crate::units::LengthUnit;
use crate::wires;

/// The direction turns by no more than this from one point of a curve to the next, radians: 15°.
const ANGLE: f64 = 0.2618;
/// How far cubics may stand off curves they follow, mm.
const FOLLOWS: f64 = 1e-6;
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
    let made = bodies(&contents, wanted, &progress.stage(0.4, 0.95))?;
    let within = FOLLOWS / contents.to_millimetres;
    let strands = contents.wires.iter().map(|w| wires::strands(w, within, &progress.stage(0.95, 1.0)));
    let strands = strands.collect::<Result<Vec<_>, _>>()?;
    let known = LengthUnit::ALL.into_iter().find(|u| {
        let off = contents.to_millimetres / u.millimetres() - 1.0;
        off.abs() < 1e-9
    });
    if known.is_none() || contents.unit.contains("none") {
        notes.push(format!("its unit: {}", contents.unit));
    }
    let scale = if known.is_some() { 1.0 } else { contents.to_millimetres };
    let mut put = Put { scale, limit: wanted.limits.triangles, ..Put::default() };
    for (n, item) in contents.items.iter().enumerate() {
        progress.check()?;
        let wanted = wanted.wants(n);
        match item.of {
            Of::Body(k) => {
                let body = made[k].as_ref().filter(|_| wanted);
                if let Some(body) = body {
                    let place = |p: Point| item.placement.transform_point3(p) * scale;
                    tell_open(body, (&item.name, &place), notes);
                }
                put.put(item, body.map(|b| &b.mesh), contents.bodies[k].faces.len() as u32, false)?;
            }
            Of::Mesh(k) => {
                let own = &contents.meshes[k];
                let faces = own.face_of.iter().max().map_or(0, |f| f + 1);
                let face_of = own.face_of.iter().map(|f| FaceId(*f)).collect();
                let mesh = wanted.then(|| weld::weld_mesh(&own.points, &own.triangles, face_of)).transpose()?;
                // All in one face: the file does not tell them apart.
                put.put(item, mesh.as_ref(), faces, faces <= 1)?;
            }
            Of::Wire(k) => put.wire(item, &strands[k])?,
        }
    }
    let Put { points, triangles, face_of, bodies, .. } = put;
    let mesh = Mesh::new(points, triangles, face_of)?;
    Ok(Held { mesh, tells_groups: false, bodies, unit: Some(known.unwrap_or(LengthUnit::Millimetre)) })
}

/// What stands in a file, one after the other.
#[derive(Default)]
struct Put {
    scale: f64,
    limit: usize,
    points: Vec<Point>,
    triangles: Vec<[u32; 3]>,
    face_of: Vec<FaceId>,
    faces: u32,
    strands: usize,
    bodies: Vec<FileBody>,
}

impl Put {
    fn put(&mut self, item: &Item, own: Option<&Mesh>, faces: u32, in_one: bool) -> Result<(), ReadError> {
        let from = self.triangles.len();
        if let Some(mesh) = own {
            if from + mesh.triangles().len() > self.limit {
                return Err(ReadError::TooManyTriangles { limit: self.limit });
            }
            let first = self.points.len() as u32;
            self.points.extend(mesh.points().iter().map(|p| item.placement.transform_point3(*p) * self.scale));
            self.triangles.extend(mesh.triangles().iter().map(|t| t.map(|c| c + first)));
            self.face_of.extend(mesh.face_of().iter().map(|f| FaceId(f.0 + self.faces)));
        }
        self.faces += faces;
        let triangles = from..self.triangles.len();
        let (name, colour) = (item.name.clone(), item.colour);
        self.bodies.push(FileBody { name, colour, triangles, in_one, curves: vec![] });
        Ok(())
    }

    fn wire(&mut self, item: &Item, strands: &[Strand]) -> Result<(), ReadError> {
        self.strands += strands.len();
        wires::refuse_more(self.strands)?;
        let place = |p: Point| item.placement.transform_point3(p) * self.scale;
        let curves = strands.iter().map(|s| s.put(&place)).collect();
        let (none, name) = (self.triangles.len(), item.name.clone());
        self.bodies.push(FileBody { name, colour: item.colour, triangles: none..none, in_one: false, curves });
        Ok(())
    }
}

/// The triangles of each body that is wanted.
fn bodies(contents: &Contents, wanted: &Wanted, progress: &Progress) -> Result<Vec<Option<Tessellated>>, ReadError> {
    let fineness = Fineness { chord: wanted.chord / contents.to_millimetres, angle: ANGLE };
    let mut needed = vec![false; contents.bodies.len()];
    for (n, item) in contents.items.iter().enumerate() {
        if let Of::Body(k) = item.of {
            needed[k] |= wanted.wants(n);
        }
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
