//! OBJ: points and polygons, negative indices, `/` references; objects (`o`) are bodies, materials and groups (`usemtl`, `g`) are
//! groups. Lines and curves are passed over.

use std::collections::HashMap;
use std::io::{Read, Write};

use nimbet_kernel::{Mesh, Progress};

use crate::errors::ReadError;
use crate::groups::Groups;
use crate::input::{Input, LONGEST_LINE, point, shown};
use crate::polygons::Polygons;
use crate::read::{FileBody, Held, Limits};

/// More objects are no part.
const MOST_OBJECTS: usize = 100_000;

pub(crate) fn read<R: Read>(mut input: Input<R>, limits: &Limits, progress: &Progress) -> Result<Held, ReadError> {
    let mut polygons = Polygons::new(limits, progress);
    let mut corners = Vec::new();
    // The names of objects, and stretches of triangles with the object they are of; those before the first are of none.
    let (mut names, mut of_name) = (vec![String::new()], HashMap::from([(String::new(), 0)]));
    let mut stretches = vec![(0, 0)];
    let (mut of_names, mut group, mut material) = (Groups::new(), String::new(), String::new());
    polygons.group = of_names.number((String::new(), String::new()));
    while let Some(mut line) = input.next_words()? {
        let at = input.at_line();
        // A backslash at the end of a line carries it on.
        while line.ends_with('\\') {
            line.pop();
            line.push(' ');
            line.push_str(&input.next_words()?.unwrap_or_default());
            if line.len() > LONGEST_LINE {
                return Err(ReadError::malformed(at, "the line is too long to be part of a model"));
            }
        }
        let mut words = line.split_ascii_whitespace();
        match words.next() {
            Some(key @ ("usemtl" | "g")) => {
                *(if key == "g" { &mut group } else { &mut material }) = words.collect::<Vec<_>>().join(" ");
                polygons.group = of_names.number((group.clone(), material.clone()));
            }
            Some("o") => {
                let name = words.collect::<Vec<_>>().join(" ");
                if names.len() > MOST_OBJECTS {
                    return Err(ReadError::malformed(at, "there are more than 100 000 objects"));
                }
                let object = *of_name.entry(name.clone()).or_insert(names.len());
                if object == names.len() {
                    names.push(name);
                }
                stretches.push((polygons.count(), object));
            }
            Some("v") => polygons.add_point(point(&mut words, at)?)?,
            Some("f") => {
                corners.clear();
                for word in words {
                    let first = word.split('/').next().unwrap_or("");
                    let number: i64 = first
                        .parse()
                        .map_err(|_| ReadError::malformed(at, format!("'{}' is no point number", shown(word))))?;
                    corners.push(match number {
                        0 => return Err(ReadError::malformed(at, "point numbers begin at 1, not 0")),
                        n if n > 0 => n - 1,
                        n => polygons.points.len() as i64 + n,
                    });
                }
                polygons.add_polygon(&corners, at)?;
            }
            _ => {}
        }
    }
    let count = polygons.count();
    let tells_groups = of_names.tell_more_than(&(String::new(), String::new()));
    let mesh = polygons.finish()?;
    Ok(Held { tells_groups, ..in_bodies(mesh, count, (names, &stretches))? })
}

/// The triangles of each object put together.
fn in_bodies(
    mesh: Mesh,
    count: usize,
    (names, stretches): (Vec<String>, &[(usize, usize)]),
) -> Result<Held, ReadError> {
    let ends = stretches.iter().skip(1).map(|s| s.0).chain([count]);
    let mut parts: Vec<Vec<std::ops::Range<usize>>> = vec![vec![]; names.len()];
    for ((from, object), end) in stretches.iter().zip(ends) {
        parts[*object].push(*from..end);
    }
    let (points, triangles, face_of) = mesh.into_parts();
    let (mut sorted, mut groups, mut bodies) = (Vec::with_capacity(count), Vec::with_capacity(count), Vec::new());
    for (name, parts) in names.into_iter().zip(parts) {
        let from = sorted.len();
        for own in parts {
            sorted.extend_from_slice(&triangles[own.clone()]);
            groups.extend_from_slice(&face_of[own]);
        }
        if sorted.len() > from {
            bodies.push(FileBody { name, colour: None, triangles: from..sorted.len(), ..FileBody::default() });
        }
    }
    Ok(Held { mesh: Mesh::new(points, sorted, groups)?, tells_groups: false, bodies, unit: None })
}

pub(crate) fn write(mesh: &Mesh, name: &str, out: &mut impl Write) -> std::io::Result<()> {
    let name: String = name.chars().map(|c| if c.is_whitespace() || c.is_control() { '_' } else { c }).collect();
    writeln!(out, "o {name}")?;
    for p in mesh.points() {
        writeln!(out, "v {} {} {}", p.x, p.y, p.z)?;
    }
    for t in mesh.triangles() {
        writeln!(out, "f {} {} {}", t[0] + 1, t[1] + 1, t[2] + 1)?;
    }
    Ok(())
}
