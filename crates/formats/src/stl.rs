//! STL: binary and ASCII. Normals in the file are ignored; the winding tells the outside. Attribute bytes, and the names of several
//! solids, are groups.

use std::io::{Read, Write};

use nimbet_kernel::{FaceId, Mesh, Point, Progress, weld};
use rayon::prelude::*;

use crate::errors::{Place, ReadError};
use crate::groups::Groups;
use crate::input::{Input, point, shown};
use crate::read::{Held, Limits};

const HEADER: usize = 84;
const RECORD: usize = 50;
/// Triangles read at a time: large enough to share out among cores, small enough to cancel soon.
const BATCH: usize = 64 * 1024;

fn promised(head: &[u8]) -> Option<u32> {
    head.get(80..84).map(|b| u32::from_le_bytes([b[0], b[1], b[2], b[3]]))
}

/// Whether the length is just what the count in a binary header asks for. A file that begins with "solid" may still be one.
pub(crate) fn is_whole_binary(head: &[u8], length: u64) -> bool {
    promised(head).is_some_and(|n| length == HEADER as u64 + u64::from(n) * RECORD as u64)
}

pub(crate) fn read<R: Read>(
    mut input: Input<R>,
    length: u64,
    limits: &Limits,
    progress: &Progress,
    notes: &mut Vec<String>,
) -> Result<Held, ReadError> {
    let head = input.peek()?;
    let blank = head.iter().take_while(|b| b.is_ascii_whitespace()).count();
    let text = head.iter().take(400).all(|&b| b != 0 && b < 0x80);
    let ascii = head[blank..].starts_with(b"solid") && text && !is_whole_binary(head, length);
    let Soup { corners, groups, tells } =
        if ascii { read_ascii(input, limits, progress)? } else { read_binary(input, length, limits, progress, notes)? };
    if corners.is_empty() {
        return Err(ReadError::NoTriangles);
    }
    progress.report(0.8, "welding")?;
    Ok(Held::one(weld::weld_corners(&corners)?.regroup(|t| groups[t]), tells))
}

/// Triangles as they stand in a file.
#[derive(Default)]
struct Soup {
    corners: Vec<Point>,
    /// What each of them is of.
    groups: Vec<FaceId>,
    /// Whether that tells anything.
    tells: bool,
}

fn read_binary<R: Read>(
    mut input: Input<R>,
    length: u64,
    limits: &Limits,
    progress: &Progress,
    notes: &mut Vec<String>,
) -> Result<Soup, ReadError> {
    let head: [u8; HEADER] = input.take("the header of 84 bytes")?;
    let count = promised(&head).unwrap_or(0) as usize;
    let expected = HEADER as u64 + count as u64 * RECORD as u64;
    if length < expected {
        return Err(ReadError::Truncated {
            at: Place::Byte(length),
            missing: format!("all of the {count} triangles its header promises ({expected} bytes)"),
        });
    }
    if count > limits.triangles {
        return Err(ReadError::TooManyTriangles { limit: limits.triangles });
    }
    if length > expected {
        notes.push(format!("{} bytes after the last triangle were ignored", length - expected));
    }
    let (mut soup, mut by_attribute) = (Soup::default(), Groups::new());
    let mut batch = vec![0u8; RECORD * BATCH.min(count)];
    let mut done = 0;
    while done < count {
        progress.report(0.8 * done as f64 / count as f64, "reading triangles")?;
        let want = (count - done).min(BATCH);
        let offset = input.offset;
        let bytes = &mut batch[..want * RECORD];
        if input.fill(bytes)? < bytes.len() {
            return Err(ReadError::Truncated { at: input.at_byte(), missing: format!("triangle {}", done + 1) });
        }
        soup.groups.extend(bytes.chunks_exact(RECORD).map(|r| by_attribute.number([r[48], r[49]])));
        soup.corners.par_extend(bytes.par_chunks_exact(RECORD).flat_map_iter(|record| {
            let f =
                |at: usize| f64::from(f32::from_le_bytes([record[at], record[at + 1], record[at + 2], record[at + 3]]));
            (0..3).map(move |k| Point::new(f(12 + k * 12), f(16 + k * 12), f(20 + k * 12)))
        }));
        if let Some(bad) = soup.corners[done * 3..].par_iter().position_first(|p| !p.is_finite()) {
            let at = Place::Byte(offset + (bad / 3 * RECORD + 12 + bad % 3 * 12) as u64);
            return Err(ReadError::NotFinite { at });
        }
        done += want;
    }
    soup.tells = by_attribute.tell_more_than(&[0, 0]);
    Ok(soup)
}

fn read_ascii<R: Read>(mut input: Input<R>, limits: &Limits, progress: &Progress) -> Result<Soup, ReadError> {
    let (mut soup, mut of_solid) = (Soup::default(), Groups::new());
    let (mut solid, mut group) = (0, FaceId(0));
    let mut in_facet = false;
    let mut ended = false;
    while let Some(words) = input.next_line()?.map(str::to_owned) {
        let at = input.at_line();
        let mut words = words.split_ascii_whitespace();
        let Some(key) = words.next() else { continue };
        match key.to_ascii_lowercase().as_str() {
            "vertex" if in_facet => {
                if soup.corners.len().is_multiple_of(3) && soup.corners.len() / 3 >= limits.triangles {
                    return Err(ReadError::TooManyTriangles { limit: limits.triangles });
                }
                soup.corners.push(point(&mut words, at)?);
            }
            "facet" if !in_facet => in_facet = true,
            "endfacet" if in_facet => {
                if soup.corners.is_empty() || soup.corners.len() != 3 * (soup.groups.len() + 1) {
                    return Err(ReadError::malformed(at, "a facet does not have three corners"));
                }
                soup.groups.push(group);
                in_facet = false;
            }
            "solid" => {
                (ended, solid) = (false, solid + 1);
                group = of_solid.number(solid);
            }
            "endsolid" if !in_facet => ended = true,
            "outer" | "endloop" => {}
            other => {
                return Err(ReadError::malformed(at, format!("'{}' does not belong here in an STL", shown(other))));
            }
        }
        if input.line.is_multiple_of(64 * 1024) {
            progress.check()?;
        }
    }
    if in_facet || !ended {
        return Err(ReadError::Truncated { at: input.at_line(), missing: "the end of the solid".into() });
    }
    Ok(soup)
}

/// Writes binary STL. Coordinates are rounded to single precision, as the format demands.
pub(crate) fn write(mesh: &Mesh, name: &str, out: &mut impl Write) -> std::io::Result<()> {
    let mut header = [b' '; 80];
    // A header that begins with "solid" would be taken for text by some readers.
    let title = format!("binary STL: {name}");
    let title = &title.as_bytes()[..title.len().min(80)];
    header[..title.len()].copy_from_slice(title);
    out.write_all(&header)?;
    out.write_all(&(mesh.triangles().len() as u32).to_le_bytes())?;
    for t in 0..mesh.triangles().len() {
        let [a, b, c] = mesh.corners(t);
        let mut record = [0u8; RECORD];
        for (k, v) in [mesh.area_vector(t).normalize_or_zero(), a, b, c].into_iter().enumerate() {
            for (axis, x) in v.to_array().into_iter().enumerate() {
                record[k * 12 + axis * 4..][..4].copy_from_slice(&(x as f32).to_le_bytes());
            }
        }
        out.write_all(&record)?;
    }
    Ok(())
}
