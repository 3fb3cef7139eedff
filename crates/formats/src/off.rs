//! OFF: counts, points, polygons. Colours, normals and texture places (COFF, NOFF, STOFF …) are passed over.

use std::io::Read;

use nimbet_kernel::{Mesh, Progress};

use crate::errors::ReadError;
use crate::input::{Input, point, shown};
use crate::polygons::Polygons;
use crate::read::Limits;

/// How long the word is with which an OFF file in three dimensions begins; none where it is none.
pub(crate) fn starts_off(start: &[u8]) -> Option<usize> {
    let n = start.windows(3).take(5).position(|w| w == b"OFF")?;
    // Texture places, colours and normals may stand with each point after its coordinates.
    let before = &start[..n];
    let before = before.strip_prefix(b"ST").unwrap_or(before);
    let before = before.strip_prefix(b"C").unwrap_or(before);
    let before = before.strip_prefix(b"N").unwrap_or(before);
    before.is_empty().then_some(n + 3)
}

pub(crate) fn read<R: Read>(mut input: Input<R>, limits: &Limits, progress: &Progress) -> Result<Mesh, ReadError> {
    let first = input.next_words()?.unwrap_or_default();
    let begins = starts_off(first.as_bytes()).filter(|n| first.is_char_boundary(*n));
    let Some(rest) = begins.map(|n| first[n..].to_owned()) else {
        return Err(ReadError::malformed(input.at_line(), "the file does not begin with OFF"));
    };
    if rest.trim().eq_ignore_ascii_case("binary") {
        return Err(ReadError::malformed(input.at_line(), "binary OFF is not read; save it as text"));
    }
    let counts = if rest.trim().is_empty() { next(&mut input, "the counts")? } else { rest.to_owned() };
    let at = input.at_line();
    let mut words = counts.split_ascii_whitespace();
    let mut count = |what: &str| -> Result<usize, ReadError> {
        let word = words.next().unwrap_or("");
        word.parse().map_err(|_| ReadError::malformed(at, format!("'{}' is no number of {what}", shown(word))))
    };
    let (points, faces) = (count("points")?, count("polygons")?);
    if faces > limits.triangles {
        return Err(ReadError::TooManyTriangles { limit: limits.triangles });
    }
    let mut polygons = Polygons::new(limits, progress);
    for n in 0..points {
        let line = next(&mut input, &format!("point {}", n + 1))?;
        polygons.add_point(point(&mut line.split_ascii_whitespace(), input.at_line())?)?;
    }
    for n in 0..faces {
        let line = next(&mut input, &format!("polygon {}", n + 1))?;
        let at = input.at_line();
        let mut numbers = line.split_ascii_whitespace().map(|word| {
            word.parse::<i64>().map_err(|_| ReadError::malformed(at, format!("'{}' is no point number", shown(word))))
        });
        let size = numbers.next().unwrap_or(Ok(0))?;
        let corners = numbers.take(usize::try_from(size).unwrap_or(0)).collect::<Result<Vec<_>, _>>()?;
        if corners.len() as i64 != size {
            return Err(ReadError::malformed(at, format!("{} of {size} point numbers are there", corners.len())));
        }
        polygons.add_polygon(&corners, at)?;
    }
    polygons.finish()
}

fn next<R: Read>(input: &mut Input<R>, missing: &str) -> Result<String, ReadError> {
    match input.next_words()? {
        Some(line) => Ok(line),
        None => Err(ReadError::Truncated { at: input.at_line(), missing: missing.into() }),
    }
}
