//! Reads 3MF (ISO/IEC 25422, core specification).
//!
//! The container and the XML are read with `zip` and `quick-xml`. What counts are mesh objects and the build
//! items' transforms, objects made of others, names, the colours of whole objects, and of single triangles as groups; each item of
//! the build is a body.

use std::collections::HashMap;
use std::io::{BufRead, BufReader, Read};

use nimbet_kernel::{FaceId, Point, Progress};
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};

use crate::archive::Archive;
use crate::errors::{Place, ReadError};
use crate::groups::Groups;
use crate::input::number;
use crate::polygons::Polygons;
use crate::read::{FileBody, Held, Limits};
use crate::units::LengthUnit;

pub(crate) const MODEL: &str = "3D/3dmodel.model";
/// The longest tag or text between tags. A triangle takes 40 bytes; other programs put long notes into some.
const LONGEST_EVENT: usize = 1 << 20;
/// More objects, or instances of them, are no part.
const MOST_OBJECTS: usize = 100_000;
/// So many uses of objects in others are followed.
const MOST_USES: usize = 1_000_000;
/// So deep objects may stand in each other.
const DEEPEST: usize = 32;

/// XML as it comes out of an archive: no event may be longer than [`LONGEST_EVENT`].
struct Bounded<R> {
    inner: BufReader<R>,
    event: usize,
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
        self.inner.fill_buf()
    }

    fn consume(&mut self, some: usize) {
        self.event = self.event.saturating_sub(some);
        self.inner.consume(some);
    }
}

/// A transform of the format: three rows of a matrix for row vectors, and the move.
pub(crate) type Transform = [f64; 12];

/// An object: triangles, others where they stand in it, or both.
#[derive(Default)]
struct Object {
    name: String,
    /// Group and place of its colour.
    colour: Option<(String, usize)>,
    points: std::ops::Range<usize>,
    triangles: Vec<[i64; 3]>,
    /// For each of them which colour it has.
    groups: Vec<FaceId>,
    /// The colour of the first of them, where it has one of its own.
    first: Option<(String, usize)>,
    components: Vec<(String, Transform)>,
}

/// What was read of the model.
struct Model<'a> {
    limits: &'a Limits,
    /// The model of the archive that is being read, and whether it is the one whose build counts.
    path: String,
    is_root: bool,
    unit: LengthUnit,
    points: Vec<Point>,
    triangles: usize,
    objects: HashMap<String, Object>,
    items: Vec<(String, Transform)>,
    /// Colours by their group.
    colours: HashMap<String, Vec<Option<[u8; 3]>>>,
    /// The object and the group of colours that are open.
    object: Option<(String, Object)>,
    group: String,
    /// Uses of objects in others.
    components: usize,
    /// The colours of triangles.
    of_colour: Groups<Option<(String, usize)>>,
}

pub(crate) fn read(archive: &mut Archive, limits: &Limits, progress: &Progress) -> Result<Held, ReadError> {
    let mut model = Model {
        limits,
        path: String::new(),
        is_root: true,
        unit: LengthUnit::Millimetre,
        points: vec![],
        triangles: 0,
        objects: HashMap::new(),
        items: vec![],
        colours: HashMap::new(),
        object: None,
        group: String::new(),
        components: 0,
        of_colour: Groups::new(),
    };
    let mut at = Place::Byte(0);
    for n in 0..archive.models().len() {
        model.path = plain_path(&archive.models()[n]);
        model.is_root = n == 0;
        at = read_part(archive.entry(n, limits)?, &mut model, progress)?;
    }
    model.built(at, progress)
}

/// Reads one model of the archive; gives where it ends.
fn read_part(inner: impl Read, model: &mut Model<'_>, progress: &Progress) -> Result<Place, ReadError> {
    let bounded = Bounded { inner: BufReader::new(inner), event: LONGEST_EVENT };
    let mut xml = Reader::from_reader(bounded);
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
            Event::Start(tag) => model.open(tag, at)?,
            Event::Empty(tag) => {
                model.open(tag, at)?;
                model.close(tag.local_name().as_ref());
            }
            Event::End(tag) => model.close(tag.local_name().as_ref()),
            Event::Eof => return Ok(at),
            _ => {}
        }
        buffer.clear();
    }
}

/// The path of a model in its archive, as others name it.
fn plain_path(path: &str) -> String {
    path.trim_start_matches('/').to_ascii_lowercase()
}

impl Model<'_> {
    fn open(&mut self, tag: &BytesStart<'_>, at: Place) -> Result<(), ReadError> {
        let text = |key| attribute(tag, key, at);
        match tag.local_name().as_ref() {
            b"model" => {
                refuse_needed(tag, at)?;
                if let Some(name) = text("unit")? {
                    let known = LengthUnit::ALL.into_iter().find(|u| u.name_in_3mf() == name);
                    let unknown =
                        || ReadError::Unsupported { what: format!("the unit '{}'", crate::input::shown(&name)) };
                    let unit = known.ok_or_else(unknown)?;
                    if self.is_root {
                        self.unit = unit;
                    } else if unit != self.unit {
                        return Err(ReadError::Unsupported { what: "models of different units in one archive".into() });
                    }
                }
            }
            b"basematerials" | b"colorgroup" => self.group = self.named(text("id")?),
            tag @ (b"base" | b"color") => {
                let written = if tag == b"base" { "displaycolor" } else { "color" };
                let colours = self.colours.entry(self.group.clone()).or_default();
                if colours.len() < MOST_OBJECTS {
                    colours.push(text(written)?.and_then(|c| eight_bits(&c)));
                }
            }
            b"object" => {
                if self.objects.len() >= MOST_OBJECTS {
                    return Err(ReadError::malformed(at, "there are more than 100 000 objects"));
                }
                let place = text("pindex")?.and_then(|n| n.parse().ok()).unwrap_or(0);
                let from = self.points.len();
                let object = Object {
                    name: text("name")?.unwrap_or_default().trim().to_owned(),
                    colour: text("pid")?.map(|group| (self.named(Some(group)), place)),
                    points: from..from,
                    ..Object::default()
                };
                self.object = Some((self.named(text("id")?), object));
            }
            b"vertex" => {
                let get = |key| number(attribute(tag, key, at)?.as_deref(), at);
                let p = Point::new(get("x")?, get("y")?, get("z")?);
                if self.points.len() >= self.limits.triangles.saturating_mul(3) {
                    return Err(ReadError::TooManyTriangles { limit: self.limits.triangles });
                }
                self.points.push(p);
            }
            b"triangle" => {
                let get = |key| -> Result<i64, ReadError> {
                    let word = attribute(tag, key, at)?.unwrap_or_default();
                    word.parse().map_err(|_| ReadError::malformed(at, "a triangle lacks a corner"))
                };
                self.triangles += 1;
                if self.triangles > self.limits.triangles {
                    return Err(ReadError::TooManyTriangles { limit: self.limits.triangles });
                }
                let corners = [get("v1")?, get("v2")?, get("v3")?];
                let own = (text("pid")?, text("p1")?.and_then(|n| n.parse().ok()));
                self.triangle(corners, own);
            }
            b"component" => {
                self.components += 1;
                if self.components > MOST_OBJECTS {
                    return Err(ReadError::malformed(at, "objects are used more than 100 000 times"));
                }
                let of = (self.elsewhere(tag, at)?, transform(text("transform")?.as_deref(), at)?);
                if let Some((_, object)) = &mut self.object {
                    object.components.push(of);
                }
            }
            b"item" if self.is_root => {
                if self.items.len() >= MOST_OBJECTS {
                    return Err(ReadError::malformed(at, "there are more than 100 000 items"));
                }
                self.items.push((self.elsewhere(tag, at)?, transform(text("transform")?.as_deref(), at)?));
            }
            _ => {}
        }
        Ok(())
    }

    /// A triangle of the object that is open, with group and place of its colour as far as they are its own.
    fn triangle(&mut self, corners: [i64; 3], (group, place): (Option<String>, Option<usize>)) {
        let group = group.map(|group| self.named(Some(group)));
        let Some((_, object)) = &mut self.object else { return };
        let colour = match (group, place) {
            (None, None) => object.colour.clone(),
            // Places in what is no list of colours are those of a picture: they tell nothing apart.
            (Some(group), place) => {
                let place = place.filter(|_| self.colours.contains_key(&group)).unwrap_or(0);
                Some((group, place))
            }
            (None, Some(place)) => object.colour.as_ref().map(|(group, _)| (group.clone(), place)),
        };
        if object.triangles.is_empty() {
            object.first.clone_from(&colour);
        }
        object.triangles.push(corners);
        object.groups.push(self.of_colour.number(colour));
    }

    /// What something of this model is called among all of them.
    fn named(&self, id: Option<String>) -> String {
        format!("{}#{}", self.path, id.unwrap_or_default())
    }

    /// The object a component or an item names, which may be of another model of the archive.
    fn elsewhere(&self, tag: &BytesStart<'_>, at: Place) -> Result<String, ReadError> {
        let id = attribute(tag, "objectid", at)?;
        let path = tag.attributes().flatten().find(|a| a.key.local_name().as_ref() == b"path");
        match path {
            Some(path) => {
                let path = path.unescape_value().map_err(|e| ReadError::malformed(at, e.to_string()))?;
                Ok(format!("{}#{}", plain_path(&path), id.unwrap_or_default()))
            }
            None => Ok(self.named(id)),
        }
    }

    fn close(&mut self, tag: &[u8]) {
        if tag == b"object"
            && let Some((id, mut object)) = self.object.take()
        {
            object.points.end = self.points.len();
            // Some write the colour of an object to each of its triangles.
            if object.first.is_some() && object.groups.iter().all(|g| *g == object.groups[0]) {
                object.colour = object.first.take();
            }
            self.objects.insert(id, object);
        }
    }

    /// Each item of the build as a body.
    fn built(self, at: Place, progress: &Progress) -> Result<Held, ReadError> {
        let mut built = Polygons::new(self.limits, progress);
        let (mut bodies, mut uses) = (Vec::with_capacity(self.items.len()), 0);
        for (id, place) in &self.items {
            let from = built.count();
            self.put(id, place, &mut built, (0, &mut uses), at)?;
            let object = self.objects.get(id);
            let colour = object.and_then(|o| o.colour.as_ref());
            let colour = colour.and_then(|(group, n)| *self.colours.get(group)?.get(*n)?);
            let name = object.map(|o| o.name.clone()).unwrap_or_default();
            bodies.push(FileBody { name, colour, triangles: from..built.count(), ..FileBody::default() });
        }
        Ok(Held { mesh: built.finish()?, tells_groups: false, bodies, unit: Some(self.unit) })
    }

    /// An object where it stands, with those in it.
    fn put(
        &self,
        id: &str,
        place: &Transform,
        built: &mut Polygons<'_>,
        (depth, uses): (usize, &mut usize),
        at: Place,
    ) -> Result<(), ReadError> {
        let object = self.objects.get(id);
        let object = object.ok_or_else(|| ReadError::malformed(at, "an item names an object that is not there"))?;
        *uses += 1;
        if depth > DEEPEST {
            return Err(ReadError::malformed(at, "objects stand in each other more than 32 deep, or in themselves"));
        }
        if *uses > MOST_USES {
            return Err(ReadError::malformed(at, "objects are used more than a million times"));
        }
        let offset = built.points.len() as i64;
        for p in &self.points[object.points.clone()] {
            built.add_point(moved(place, *p))?;
        }
        let count = object.points.len();
        for (t, group) in object.triangles.iter().zip(&object.groups) {
            if let Some(index) = t.iter().copied().find(|&i| i < 0 || i >= count as i64) {
                return Err(ReadError::IndexOutOfRange { at, index, count });
            }
            built.group = *group;
            built.add_polygon(&t.map(|i| i + offset), at)?;
        }
        for (other, own) in &object.components {
            self.put(other, &after(own, place), built, (depth + 1, uses), at)?;
        }
        Ok(())
    }
}

/// Refuses a model that needs an extension which changes shapes, by its namespace.
fn refuse_needed(tag: &BytesStart<'_>, at: Place) -> Result<(), ReadError> {
    /// Objects in further models of the archive, and colours.
    const KNOWN: [&str; 2] = ["/production/", "/material/"];
    let needed = attribute(tag, "requiredextensions", at)?.unwrap_or_default();
    for prefix in needed.split_ascii_whitespace() {
        let name = attribute(tag, &format!("xmlns:{prefix}"), at)?.unwrap_or_default();
        if !KNOWN.iter().any(|known| name.contains(known)) {
            let name = if name.is_empty() { prefix.to_owned() } else { name };
            return Err(ReadError::Unsupported {
                what: format!("the extension {}", name.chars().take(90).collect::<String>()),
            });
        }
    }
    Ok(())
}

pub(crate) fn moved(m: &Transform, p: Point) -> Point {
    let axis = |k: usize| p.x * m[k] + p.y * m[3 + k] + p.z * m[6 + k] + m[9 + k];
    Point::new(axis(0), axis(1), axis(2))
}

/// The first transform, then the second.
fn after(first: &Transform, second: &Transform) -> Transform {
    let row = |k: usize| Point::new(first[k * 3], first[k * 3 + 1], first[k * 3 + 2]);
    let origin = moved(second, Point::ZERO);
    let mut m = [0.0; 12];
    for k in 0..4 {
        let to = moved(second, row(k)) - if k < 3 { origin } else { Point::ZERO };
        m[k * 3..k * 3 + 3].copy_from_slice(&to.to_array());
    }
    m
}

/// A colour as it is written: `#RRGGBB`, with or without how opaque it is.
fn eight_bits(text: &str) -> Option<[u8; 3]> {
    let digits = text.trim().strip_prefix('#').filter(|d| d.is_ascii() && d.len() >= 6)?;
    let part = |n: usize| u8::from_str_radix(&digits[n * 2..n * 2 + 2], 16).ok();
    Some([part(0)?, part(1)?, part(2)?])
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
