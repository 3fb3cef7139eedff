//! OBJ: points and polygons, negative indices, `/` references. Lines, curves, materials and groups are passed over.

use std::io::{Read, Write};

use nimbet_kernel::{Mesh, Progress};

use crate::errors::ReadError;
use crate::input::{Input, LONGEST_LINE, point, shown};
use crate::polygons::Polygons;
use crate::read::Limits;

pub(crate) fn read<R: Read>(mut input: Input<R>, limits: &Limits, progress: &Progress) -> Result<Mesh, ReadError> {
    let mut polygons = Polygons::new(limits, progress);
    let mut corners = Vec::new();
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
    polygons.finish()
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
