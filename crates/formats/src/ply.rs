//! PLY: ASCII and both binary byte orders, polygons, any extra elements and properties (passed over). Colours of faces are groups.

use std::io::{Read, Write};

use nimbet_kernel::{Mesh, Point, Progress};

use crate::errors::{Place, ReadError};
use crate::groups::Groups;
use crate::input::{Input, number, shown};
use crate::polygons::Polygons;
use crate::read::{Held, Limits};

/// The most lines of a header.
const MOST_LINES: usize = 10_000;
/// The most corners a polygon may claim to have.
const MOST_CORNERS: u64 = 100_000;

#[derive(Clone, Copy, PartialEq)]
enum Encoding {
    Ascii,
    Little,
    Big,
}

#[derive(Clone, Copy)]
enum Scalar {
    Int { bytes: usize, signed: bool },
    Float { bytes: usize },
}

struct Property {
    name: String,
    kind: Scalar,
    /// The type of the length, for lists.
    list: Option<Scalar>,
}

struct Element {
    name: String,
    count: u64,
    properties: Vec<Property>,
}

pub(crate) fn read<R: Read>(
    mut input: Input<R>,
    limits: &Limits,
    progress: &Progress,
    notes: &mut Vec<String>,
) -> Result<Held, ReadError> {
    let (encoding, elements) = header(&mut input)?;
    let of_points = elements.iter().filter(|e| e.name == "vertex").flat_map(|e| &e.properties);
    if of_points.into_iter().any(|p| channel(&p.name) == Some(0)) {
        notes.push("the colours of its points were left out".into());
    }
    let mut of_colour = Groups::new();
    let mut polygons = Polygons::new(limits, progress);
    let mut values = Values { input, encoding, words: Vec::new(), next: 0 };
    let mut corners = Vec::new();
    for element in &elements {
        for n in 0..element.count {
            if n % (64 * 1024) == 0 {
                progress.report(0.8 * n as f64 / element.count as f64, &format!("reading {}", shown(&element.name)))?;
            }
            let at = values.begin(element)?;
            let (mut position, mut colour) = (Point::ZERO, [0.0; 3]);
            corners.clear();
            for property in &element.properties {
                match property.list {
                    None => {
                        let value = values.value(property.kind)?;
                        match property.name.as_str() {
                            "x" => position.x = value,
                            "y" => position.y = value,
                            "z" => position.z = value,
                            other => {
                                if let Some(channel) = channel(other) {
                                    colour[channel] = value;
                                }
                            }
                        }
                    }
                    Some(length) => {
                        let length = values.value(length)?;
                        if !(0.0..=MOST_CORNERS as f64).contains(&length) {
                            return Err(ReadError::malformed(at, format!("a list claims {length} entries")));
                        }
                        let wanted = matches!(property.name.as_str(), "vertex_indices" | "vertex_index");
                        for _ in 0..length as u64 {
                            let value = values.value(property.kind)?;
                            if wanted {
                                corners.push(value as i64);
                            }
                        }
                    }
                }
            }
            match element.name.as_str() {
                "vertex" if !position.is_finite() => return Err(ReadError::NotFinite { at }),
                "vertex" => polygons.add_point(position)?,
                "face" => {
                    polygons.group = of_colour.number(colour.map(f64::to_bits));
                    polygons.add_polygon(&corners, at)?;
                }
                "tristrips" => add_strips(&mut polygons, &corners, at)?,
                _ => {}
            }
        }
    }
    let painted = elements.iter().filter(|e| e.name == "face").flat_map(|e| &e.properties);
    let tells_groups = painted.into_iter().any(|p| channel(&p.name).is_some());
    Ok(Held::one(polygons.finish()?, tells_groups))
}

/// Which of red, green and blue a property is.
fn channel(property: &str) -> Option<usize> {
    let plain = property.strip_prefix("diffuse_").unwrap_or(property);
    ["red", "green", "blue"].iter().position(|c| *c == plain)
}

/// Strips of triangles, each with its neighbours' winding turned over; below 0 a new one begins.
fn add_strips(polygons: &mut Polygons<'_>, corners: &[i64], at: Place) -> Result<(), ReadError> {
    for strip in corners.split(|c| *c < 0) {
        for (n, t) in strip.windows(3).enumerate() {
            // A corner named twice leads on to the next part of a strip.
            if t[0] != t[1] && t[1] != t[2] && t[2] != t[0] {
                let t = if n % 2 == 0 { [t[0], t[1], t[2]] } else { [t[1], t[0], t[2]] };
                polygons.add_polygon(&t, at)?;
            }
        }
    }
    Ok(())
}

fn header<R: Read>(input: &mut Input<R>) -> Result<(Encoding, Vec<Element>), ReadError> {
    let mut encoding = None;
    let mut elements: Vec<Element> = Vec::new();
    if input.next_line()? != Some("ply") {
        return Err(ReadError::malformed(Place::Line(1), "the file does not begin with 'ply'"));
    }
    for lines in 0.. {
        if lines > MOST_LINES {
            return Err(ReadError::malformed(input.at_line(), format!("the header has more than {MOST_LINES} lines")));
        }
        let Some(line) = input.next_line()?.map(str::to_owned) else {
            return Err(ReadError::Truncated { at: input.at_line(), missing: "the end of the header".into() });
        };
        let at = input.at_line();
        let words: Vec<&str> = line.split_ascii_whitespace().collect();
        match words.as_slice() {
            ["end_header"] => break,
            ["format", kind, _] => {
                encoding = Some(match *kind {
                    "ascii" => Encoding::Ascii,
                    "binary_little_endian" => Encoding::Little,
                    "binary_big_endian" => Encoding::Big,
                    other => return Err(ReadError::malformed(at, format!("'{}' is no PLY format", shown(other)))),
                });
            }
            ["element", name, count] => {
                let count =
                    count.parse().map_err(|_| ReadError::malformed(at, format!("'{}' is no count", shown(count))))?;
                elements.push(Element { name: (*name).to_owned(), count, properties: vec![] });
            }
            ["property", rest @ ..] => {
                let property = match rest {
                    ["list", length, kind, name] => {
                        Property { name: (*name).to_owned(), kind: scalar(kind, at)?, list: Some(scalar(length, at)?) }
                    }
                    [kind, name] => Property { name: (*name).to_owned(), kind: scalar(kind, at)?, list: None },
                    _ => return Err(ReadError::malformed(at, "a property is not understood")),
                };
                let element =
                    elements.last_mut().ok_or_else(|| ReadError::malformed(at, "a property before any element"))?;
                element.properties.push(property);
            }
            // Comments, and lines that say nothing of the data's form: some programs break comments over lines.
            _ => {}
        }
    }
    if let Some(empty) = elements.iter().find(|e| e.properties.is_empty() && e.count > 0) {
        return Err(ReadError::malformed(
            input.at_line(),
            format!("element '{}' has no properties", shown(&empty.name)),
        ));
    }
    let encoding = encoding.ok_or_else(|| ReadError::malformed(input.at_line(), "the header names no format"))?;
    Ok((encoding, elements))
}

fn scalar(word: &str, at: Place) -> Result<Scalar, ReadError> {
    Ok(match word {
        "char" | "int8" => Scalar::Int { bytes: 1, signed: true },
        "uchar" | "uint8" => Scalar::Int { bytes: 1, signed: false },
        "short" | "int16" => Scalar::Int { bytes: 2, signed: true },
        "ushort" | "uint16" => Scalar::Int { bytes: 2, signed: false },
        "int" | "int32" => Scalar::Int { bytes: 4, signed: true },
        "uint" | "uint32" => Scalar::Int { bytes: 4, signed: false },
        "float" | "float32" => Scalar::Float { bytes: 4 },
        "double" | "float64" => Scalar::Float { bytes: 8 },
        other => return Err(ReadError::malformed(at, format!("'{}' is no PLY type", shown(other)))),
    })
}

/// The values after the header, one after the other, whatever the encoding.
struct Values<R> {
    input: Input<R>,
    encoding: Encoding,
    /// The words of the current line (ASCII).
    words: Vec<String>,
    next: usize,
}

impl<R: Read> Values<R> {
    /// Goes to the next entry of an element; gives its place.
    fn begin(&mut self, element: &Element) -> Result<Place, ReadError> {
        if self.encoding != Encoding::Ascii {
            return Ok(self.input.at_byte());
        }
        let Some(line) = self.input.next_words()? else {
            return Err(ReadError::Truncated {
                at: self.input.at_line(),
                missing: format!("all of the {} entries of '{}'", element.count, shown(&element.name)),
            });
        };
        self.words = line.split_ascii_whitespace().map(str::to_owned).collect();
        self.next = 0;
        Ok(self.input.at_line())
    }

    fn value(&mut self, kind: Scalar) -> Result<f64, ReadError> {
        if self.encoding == Encoding::Ascii {
            let word = self.words.get(self.next).map(String::as_str);
            self.next += 1;
            return number(word, self.input.at_line());
        }
        let mut bytes = [0u8; 8];
        let (count, float, signed) = match kind {
            Scalar::Int { bytes, signed } => (bytes, false, signed),
            Scalar::Float { bytes } => (bytes, true, true),
        };
        if self.input.fill(&mut bytes[..count])? < count {
            return Err(ReadError::Truncated { at: self.input.at_byte(), missing: "the rest of the data".into() });
        }
        if self.encoding == Encoding::Big {
            bytes[..count].reverse();
        }
        let [a, b, c, d, ..] = bytes;
        Ok(match (float, count, signed) {
            (true, 8, _) => f64::from_le_bytes(bytes),
            (true, ..) => f64::from(f32::from_le_bytes([a, b, c, d])),
            (false, 1, true) => f64::from(a as i8),
            (false, 1, false) => f64::from(a),
            (false, 2, true) => f64::from(i16::from_le_bytes([a, b])),
            (false, 2, false) => f64::from(u16::from_le_bytes([a, b])),
            (false, _, true) => f64::from(i32::from_le_bytes([a, b, c, d])),
            (false, _, false) => f64::from(u32::from_le_bytes([a, b, c, d])),
        })
    }
}

/// Writes little-endian binary PLY in double precision.
pub(crate) fn write(mesh: &Mesh, name: &str, out: &mut impl Write) -> std::io::Result<()> {
    let name: String = name.chars().filter(|c| !c.is_control()).collect();
    write!(out, "ply\nformat binary_little_endian 1.0\ncomment {name}\nelement vertex {}\n", mesh.points().len())?;
    write!(out, "property double x\nproperty double y\nproperty double z\n")?;
    write!(out, "element face {}\nproperty list uchar uint vertex_indices\nend_header\n", mesh.triangles().len())?;
    out.write_all(bytemuck::cast_slice(mesh.points()))?;
    for t in mesh.triangles() {
        out.write_all(&[3])?;
        out.write_all(bytemuck::cast_slice(t))?;
    }
    Ok(())
}
