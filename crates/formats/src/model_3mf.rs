//! 3MF (ISO/IEC 25422, core specification): meshes, unit, name and one display colour.
//!
//! The container and the XML are read and written with `zip` and `quick-xml`. Reading takes mesh objects and the build
//! items' transforms; objects made of other objects are refused, not half read.

use std::collections::HashMap;
use std::io::{BufRead, BufReader, Cursor, Read, Seek, Write};

use nimbet_kernel::{Mesh, Point, Progress};
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use zip::write::SimpleFileOptions;

use crate::errors::{Place, ReadError};
use crate::input::{Input, number};
use crate::polygons::Polygons;
use crate::read::Limits;
use crate::units::LengthUnit;
use crate::write::Body;

const MODEL: &str = "3D/3dmodel.model";
const CORE: &str = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02";
/// The most a compressed model may grow to: bounds hostile archives. One triangle takes about 100 bytes of XML.
const BYTES_PER_TRIANGLE: u64 = 400;
/// Digits of coordinates shrink to a tenth by compression, regular lattices to a fortieth.
const MOST_RATIO: u64 = 200;
/// So much may come of any archive.
const ALWAYS: u64 = 16 << 20;
/// The longest tag or text between tags. A triangle takes 40 bytes; other programs put long notes into some.
const LONGEST_EVENT: usize = 1 << 20;
/// More objects, or instances of them, are no part.
const MOST_OBJECTS: usize = 100_000;

/// XML as it comes out of an archive: no event may be longer than [`LONGEST_EVENT`], and all of it no longer than `most`.
struct Bounded<R> {
    inner: BufReader<R>,
    event: usize,
    left: u64,
}

impl<R: Read> Read for Bounded<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let held = self.fill_buf()?;
        let some = held.len().min(into.len());
        into[..some].copy_from_slice(&held[..some]);
        self.consume(some);
        Ok(some)
    }
}

impl<R: Read> BufRead for Bounded<R> {
    fn fill_buf(&mut self) -> std::io::Result<&[u8]> {
        if self.event == 0 {
            return Err(std::io::Error::other("a tag or text is longer than 1 MB"));
        }
        if self.left == 0 {
            return Err(std::io::Error::other(
                "the archive grows to far more than its size, or than a model of the largest size",
            ));
        }
        self.inner.fill_buf()
    }

    fn consume(&mut self, some: usize) {
        self.event = self.event.saturating_sub(some);
        self.left = self.left.saturating_sub(some as u64);
        self.inner.consume(some);
    }
}

pub(crate) fn write(body: &Body<'_>, unit: LengthUnit, out: &mut (impl Write + Seek)) -> std::io::Result<()> {
    let mut archive = zip::ZipWriter::new(out);
    // A fixed date: the same solid gives the same bytes.
    let options = SimpleFileOptions::default().last_modified_time(zip::DateTime::default());
    archive.start_file("[Content_Types].xml", options)?;
    archive.write_all(br#"<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>"#)?;
    archive.start_file("_rels/.rels", options)?;
    write!(
        archive,
        r#"<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/{MODEL}" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>"#
    )?;
    archive.start_file(MODEL, options)?;
    let mut xml = std::io::BufWriter::new(archive);
    let name = quick_xml::escape::escape(body.name);
    let [r, g, b] = body.colour;
    writeln!(xml, r#"<?xml version="1.0" encoding="UTF-8"?>"#)?;
    writeln!(xml, r#"<model unit="{}" xml:lang="en-US" xmlns="{CORE}">"#, unit.name_in_3mf())?;
    writeln!(xml, r##"<metadata name="Title">{name}</metadata><resources>"##)?;
    writeln!(
        xml,
        r##"<basematerials id="1"><base name="{name}" displaycolor="#{r:02X}{g:02X}{b:02X}"/></basematerials>"##
    )?;
    writeln!(xml, r#"<object id="2" type="model" name="{name}" pid="1" pindex="0"><mesh><vertices>"#)?;
    for p in body.mesh.points() {
        writeln!(xml, r#"<vertex x="{}" y="{}" z="{}"/>"#, p.x, p.y, p.z)?;
    }
    writeln!(xml, "</vertices><triangles>")?;
    for t in body.mesh.triangles() {
        writeln!(xml, r#"<triangle v1="{}" v2="{}" v3="{}"/>"#, t[0], t[1], t[2])?;
    }
    writeln!(xml, r#"</triangles></mesh></object></resources><build><item objectid="2"/></build></model>"#)?;
    xml.flush()?;
    xml.into_inner().map_err(std::io::IntoInnerError::into_error)?.finish()?;
    Ok(())
}

struct Object {
    points: std::ops::Range<usize>,
    triangles: Vec<[i64; 3]>,
}

pub(crate) fn read<R: Read>(
    mut input: Input<R>,
    limits: &Limits,
    progress: &Progress,
) -> Result<(Mesh, LengthUnit), ReadError> {
    // The directory of an archive is at its end, so it is held whole; the server limits its size.
    let mut bytes = Vec::new();
    let mut part = [0u8; 1 << 16];
    loop {
        let got = input.fill(&mut part)?;
        bytes.extend_from_slice(&part[..got]);
        if got < part.len() {
            break;
        }
    }
    let broken = |what: String| ReadError::malformed(Place::Byte(0), what);
    let mut archive =
        zip::ZipArchive::new(Cursor::new(bytes)).map_err(|e| broken(format!("the archive is broken: {e}")))?;
    let names: Vec<String> = archive.file_names().map(str::to_owned).collect();
    let name =
        names.iter().find(|n| n.ends_with(".model")).ok_or_else(|| broken("the archive holds no model".into()))?;
    let file = archive.by_name(name).map_err(|e| broken(format!("the archive is broken: {e}")))?;
    let most = (limits.triangles as u64).saturating_mul(BYTES_PER_TRIANGLE);
    let most = most.min(file.compressed_size().saturating_mul(MOST_RATIO)).max(ALWAYS);
    let bounded = Bounded { inner: BufReader::new(file), event: LONGEST_EVENT, left: most };
    let mut xml = Reader::from_reader(bounded);

    let mut polygons = Polygons::new(limits, progress);
    let mut unit = LengthUnit::Millimetre;
    let mut objects: HashMap<String, Object> = HashMap::new();
    let mut current: Option<(String, Object)> = None;
    let mut items: Vec<(String, [f64; 12])> = Vec::new();
    let mut triangles = 0usize;
    let (mut buffer, mut events) = (Vec::new(), 0usize);
    loop {
        let at = Place::Byte(xml.buffer_position());
        events += 1;
        if events.is_multiple_of(65536) {
            progress.check()?;
        }
        xml.get_mut().event = LONGEST_EVENT;
        let event = xml.read_event_into(&mut buffer).map_err(|e| ReadError::malformed(at, e.to_string()))?;
        match &event {
            Event::Start(tag) | Event::Empty(tag) => match tag.local_name().as_ref() {
                b"model" => {
                    if let Some(name) = attribute(tag, "unit", at)? {
                        unit = LengthUnit::ALL.into_iter().find(|u| u.name_in_3mf() == name).ok_or_else(|| {
                            ReadError::Unsupported { what: format!("the unit '{}'", crate::input::shown(&name)) }
                        })?;
                    }
                }
                b"object" => {
                    let id = attribute(tag, "id", at)?.unwrap_or_default();
                    if objects.len() >= MOST_OBJECTS {
                        return Err(ReadError::malformed(at, "there are more than 100 000 objects"));
                    }
                    let from = polygons.points.len();
                    current = Some((id, Object { points: from..from, triangles: vec![] }));
                }
                b"vertex" => {
                    let get = |key| number(attribute(tag, key, at)?.as_deref(), at);
                    polygons.add_point(Point::new(get("x")?, get("y")?, get("z")?))?;
                }
                b"triangle" => {
                    let get = |key| -> Result<i64, ReadError> {
                        let word = attribute(tag, key, at)?.unwrap_or_default();
                        word.parse().map_err(|_| ReadError::malformed(at, "a triangle lacks a corner"))
                    };
                    triangles += 1;
                    if triangles > limits.triangles {
                        return Err(ReadError::TooManyTriangles { limit: limits.triangles });
                    }
                    if let Some((_, object)) = &mut current {
                        object.triangles.push([get("v1")?, get("v2")?, get("v3")?]);
                    }
                }
                b"component" => return Err(ReadError::Unsupported { what: "objects made of other objects".into() }),
                b"item" => {
                    let id = attribute(tag, "objectid", at)?.unwrap_or_default();
                    if items.len() >= MOST_OBJECTS {
                        return Err(ReadError::malformed(at, "there are more than 100 000 items"));
                    }
                    items.push((id, transform(attribute(tag, "transform", at)?.as_deref(), at)?));
                }
                _ => {}
            },
            Event::End(tag) if tag.local_name().as_ref() == b"object" => {
                if let Some((id, mut object)) = current.take() {
                    object.points.end = polygons.points.len();
                    objects.insert(id, object);
                }
            }
            Event::Eof => break,
            _ => {}
        }
        buffer.clear();
    }
    let mut built = Polygons::new(limits, progress);
    for (id, m) in items {
        let at = Place::Byte(xml.buffer_position());
        let object =
            objects.get(&id).ok_or_else(|| ReadError::malformed(at, "an item names an object that is not there"))?;
        let offset = built.points.len() as i64;
        for p in &polygons.points[object.points.clone()] {
            let axis = |k: usize| p.x * m[k] + p.y * m[3 + k] + p.z * m[6 + k] + m[9 + k];
            built.add_point(Point::new(axis(0), axis(1), axis(2)))?;
        }
        for t in &object.triangles {
            let limit = object.points.len() as i64;
            let index = t.iter().copied().find(|&i| i < 0 || i >= limit);
            if let Some(index) = index {
                return Err(ReadError::IndexOutOfRange { at, index, count: object.points.len() });
            }
            built.add_polygon(&t.map(|i| i + offset), at)?;
        }
    }
    Ok((built.finish()?, unit))
}

fn attribute(tag: &BytesStart<'_>, key: &str, at: Place) -> Result<Option<String>, ReadError> {
    let found = tag.try_get_attribute(key).map_err(|e| ReadError::malformed(at, e.to_string()))?;
    found
        .map(|a| a.unescape_value().map(|v| v.into_owned()).map_err(|e| ReadError::malformed(at, e.to_string())))
        .transpose()
}

fn transform(text: Option<&str>, at: Place) -> Result<[f64; 12], ReadError> {
    let mut m = [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0];
    if let Some(text) = text {
        let mut words = text.split_ascii_whitespace();
        for slot in &mut m {
            *slot = number(words.next(), at)?;
        }
    }
    Ok(m)
}
