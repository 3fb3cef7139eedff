//! SVG: paths and basic shapes with their transforms, in millimetres, y up.

use std::f64::consts::TAU;

use nimbet_profile::{Flat, Span};
use quick_xml::Reader;
use quick_xml::events::{BytesStart, Event};
use svgtypes::{Length, LengthUnit, PathParser, PathSegment, PointsParser, Transform, ViewBox};

use super::affine::Affine;
use super::{DEEPEST, Found, malformed};
use crate::errors::ReadError;

/// A pixel of CSS, mm.
const PIXEL: f64 = 25.4 / 96.0;
/// Elements whose content is drawn only where it is referred to, or not at all.
const APART: [&str; 8] = ["defs", "clipPath", "mask", "pattern", "symbol", "marker", "metadata", "style"];

pub(super) fn read(bytes: &[u8], untold: Option<crate::LengthUnit>) -> Result<Found, ReadError> {
    let text = std::str::from_utf8(bytes).map_err(|_| malformed(1, "an SVG file is UTF-8 text"))?;
    let line =
        |at: u64| text.as_bytes()[..(at as usize).min(text.len())].iter().filter(|b| **b == b'\n').count() as u64 + 1;
    let mut reader = Reader::from_str(text);
    let mut found = Found { unit: "millimetre, by its size".into(), ..Found::default() };
    // The maps of the elements that are open, and whether what is in them is drawn.
    let mut open: Vec<(Affine, bool)> = Vec::new();
    loop {
        let here = reader.buffer_position();
        let event = reader.read_event().map_err(|e| malformed(line(reader.error_position()), e.to_string()))?;
        let (element, empty) = match &event {
            Event::Start(e) => (e, false),
            Event::Empty(e) => (e, true),
            Event::End(_) => {
                open.pop();
                continue;
            }
            Event::Eof if open.is_empty() => break,
            Event::Eof => return Err(malformed(line(here), "the file ends within an element")),
            _ => continue,
        };
        let name = String::from_utf8_lossy(element.local_name().as_ref()).into_owned();
        let (map, drawn) = match open.last() {
            None if name == "svg" => {
                (page(element, untold, &mut found).map_err(|why| malformed(line(here), why))?, true)
            }
            None => return Err(malformed(line(here), format!("an SVG file begins with svg, not with {name}"))),
            Some((map, drawn)) => {
                let own = own_map(element).map_err(|why| malformed(line(here), why))?;
                (map.after(&own), *drawn && !APART.contains(&name.as_str()) && !is_hidden(element))
            }
        };
        if drawn && !open.is_empty() {
            let curves = shape(&name, element, &map).map_err(|why| malformed(line(here), format!("{name}: {why}")))?;
            match curves {
                Some(curves) => found.take(curves, line(here))?,
                None if matches!(name.as_str(), "text" | "image" | "use" | "foreignObject") => found.leave_out(&name),
                None => {}
            }
        }
        if !empty {
            open.push((map, drawn));
            if open.len() > 8 * DEEPEST {
                return Err(malformed(line(here), "elements lie within each other too deeply"));
            }
        }
    }
    Ok(found)
}

type Read<T> = Result<T, String>;

fn text_of(e: &BytesStart<'_>, name: &str) -> Read<Option<String>> {
    let got = e.try_get_attribute(name).map_err(|e| e.to_string())?;
    got.map(|a| a.unescape_value().map(|v| v.into_owned()).map_err(|e| e.to_string())).transpose()
}

fn is_hidden(e: &BytesStart<'_>) -> bool {
    let says =
        |name: &str, value: &str| text_of(e, name).ok().flatten().is_some_and(|v| v.replace(' ', "").contains(value));
    says("display", "none") || says("style", "display:none") || says("visibility", "hidden")
}

/// A length in user units; those of the page are told apart in `page`.
fn length(e: &BytesStart<'_>, name: &str) -> Read<f64> {
    let Some(text) = text_of(e, name)? else { return Ok(0.0) };
    let length: Length = text.parse().map_err(|_| format!("its {name} is no length: '{text}'"))?;
    let value = length.number * millimetres_of(length.unit).map_or(1.0, |mm| mm / PIXEL);
    if value.is_finite() { Ok(value) } else { Err(format!("its {name} is no finite length")) }
}

/// What a unit is in millimetres; nothing for user units and shares.
fn millimetres_of(unit: LengthUnit) -> Option<f64> {
    match unit {
        LengthUnit::Mm => Some(1.0),
        LengthUnit::Cm => Some(10.0),
        LengthUnit::In => Some(25.4),
        LengthUnit::Pt => Some(25.4 / 72.0),
        LengthUnit::Pc => Some(25.4 / 6.0),
        LengthUnit::Px => Some(PIXEL),
        _ => None,
    }
}

/// From the page's units to millimetres, y up from its foot. Where it gives none its numbers are in `untold`.
fn page(e: &BytesStart<'_>, untold: Option<crate::LengthUnit>, found: &mut Found) -> Read<Affine> {
    let size = |name: &str| -> Read<Option<f64>> {
        let Some(text) = text_of(e, name)? else { return Ok(None) };
        let length: Length = text.parse().map_err(|_| format!("its {name} is no length: '{text}'"))?;
        let mm = match length.unit {
            LengthUnit::None => Some(length.number * PIXEL),
            unit => millimetres_of(unit).map(|mm| length.number * mm),
        };
        Ok(mm.filter(|x| x.is_finite() && *x > 0.0))
    };
    let (width, height) = (size("width")?, size("height")?);
    let view: Option<ViewBox> = match text_of(e, "viewBox")? {
        Some(text) => Some(text.parse().map_err(|_| "its viewBox is none".to_owned())?),
        None => None,
    };
    let sized = text_of(e, "width")?.is_some_and(|t| t.ends_with(|c: char| c.is_alphabetic()) && !t.ends_with("px"));
    let chosen = untold.filter(|_| !sized);
    match chosen {
        Some(unit) => found.unit = format!("no unit given; taken for {}", unit.sign()),
        None if !sized => found.unit = "no unit given; 96 to the inch".into(),
        None => {}
    }
    let (x, y, w, h) = view.map_or((0.0, 0.0, 0.0, height.unwrap_or(0.0) / PIXEL), |v| (v.x, v.y, v.w, v.h));
    // One scale for both ways, as a page is shown.
    let scale = match (view.is_some(), width, height) {
        (true, Some(width), Some(height)) => (width / w).min(height / h),
        (true, Some(width), None) => width / w,
        (true, None, Some(height)) => height / h,
        _ => PIXEL,
    };
    let scale = chosen.map_or(scale, crate::LengthUnit::millimetres);
    let map = Affine::scaled(scale, -scale).after(&Affine::moved(Flat::new(-x, -(y + h))));
    if map.is_finite() && scale > 0.0 { Ok(map) } else { Err("its size is none".into()) }
}

fn own_map(e: &BytesStart<'_>) -> Read<Affine> {
    let Some(text) = text_of(e, "transform")? else { return Ok(Affine::IDENTITY) };
    let t: Transform = text.parse().map_err(|_| format!("its transform is none: '{text}'"))?;
    let map = Affine { x: Flat::new(t.a, t.b), y: Flat::new(t.c, t.d), shift: Flat::new(t.e, t.f) };
    if map.is_finite() { Ok(map) } else { Err("its transform is not finite".into()) }
}

/// The curves of an element; nothing where it has none.
fn shape(name: &str, e: &BytesStart<'_>, map: &Affine) -> Read<Option<Vec<Vec<Span>>>> {
    let at = |x: &str, y: &str| -> Read<Flat> { Ok(Flat::new(length(e, x)?, length(e, y)?)) };
    let oval = |centre: Flat, rx: f64, ry: f64| vec![map.oval(centre, (Flat::X * rx, Flat::Y * ry), 0.0, TAU)];
    Ok(Some(match name {
        "line" => vec![map.line(at("x1", "y1")?, at("x2", "y2")?)],
        "circle" => {
            let r = length(e, "r")?;
            oval(at("cx", "cy")?, r, r)
        }
        "ellipse" => oval(at("cx", "cy")?, length(e, "rx")?, length(e, "ry")?),
        "polyline" | "polygon" => {
            let text = text_of(e, "points")?.unwrap_or_default();
            let points: Vec<Flat> = PointsParser::from(text.as_str()).map(|(x, y)| Flat::new(x, y)).collect();
            let back = (name == "polygon").then(|| points.first()).flatten();
            let next = points.iter().skip(1).chain(back);
            points.iter().zip(next).map(|(a, b)| map.line(*a, *b)).collect()
        }
        "rect" => rect(e, map)?,
        "path" => path(&text_of(e, "d")?.unwrap_or_default(), map)?,
        _ => return Ok(None),
    }))
}

fn rect(e: &BytesStart<'_>, map: &Affine) -> Read<Vec<Vec<Span>>> {
    let (at, size) =
        (Flat::new(length(e, "x")?, length(e, "y")?), Flat::new(length(e, "width")?, length(e, "height")?));
    if size.min_element() <= 0.0 {
        return Ok(vec![]);
    }
    let (rx, ry) = (text_of(e, "rx")?, text_of(e, "ry")?);
    let (x, y) = (length(e, "rx")?, length(e, "ry")?);
    let (x, y) = match (rx, ry) {
        (Some(_), None) => (x, x),
        (None, Some(_)) => (y, y),
        _ => (x, y),
    };
    let r = Flat::new(x.clamp(0.0, size.x * 0.5), y.clamp(0.0, size.y * 0.5));
    let corners = [Flat::new(1.0, 0.0), Flat::new(1.0, 1.0), Flat::new(0.0, 1.0), Flat::new(0.0, 0.0)];
    let mut curves = Vec::new();
    for (k, corner) in corners.into_iter().enumerate() {
        let before = corners[(k + 3) % 4];
        let inset = |c: Flat, along: Flat| at + c * size + (along * r);
        let way = corner - before;
        curves.push(map.line(inset(before, way), inset(corner, -way)));
        if r.min_element() > 0.0 {
            let middle = at + corner * size + (Flat::splat(0.5) - corner) * 2.0 * r;
            let begin = (k as f64 - 1.0) * TAU * 0.25;
            curves.push(map.oval(middle, (Flat::X * r.x, Flat::Y * r.y), begin, begin + TAU * 0.25));
        }
    }
    Ok(curves)
}

/// Where a path is, and what the last curve's pole was.
struct Walk {
    begin: Flat,
    at: Flat,
    cubic: Option<Flat>,
    square: Option<Flat>,
}

fn path(text: &str, map: &Affine) -> Read<Vec<Vec<Span>>> {
    let mut walk = Walk { begin: Flat::ZERO, at: Flat::ZERO, cubic: None, square: None };
    let mut curves = Vec::new();
    for segment in PathParser::from(text) {
        let segment = segment.map_err(|e| e.to_string())?;
        curves.push(walk.step(segment, map));
        if !walk.at.is_finite() {
            return Err("a place of it is not finite".into());
        }
    }
    Ok(curves)
}

impl Walk {
    fn step(&mut self, segment: PathSegment, map: &Affine) -> Vec<Span> {
        let here = self.at;
        let place = |abs: bool, x: f64, y: f64| if abs { Flat::new(x, y) } else { here + Flat::new(x, y) };
        let (cubic, square) = (self.cubic.take(), self.square.take());
        let mirrored = |pole: Option<Flat>| here + (here - pole.unwrap_or(here));
        match segment {
            PathSegment::MoveTo { abs, x, y } => {
                self.at = place(abs, x, y);
                self.begin = self.at;
                vec![]
            }
            PathSegment::LineTo { abs, x, y } => self.line(place(abs, x, y), map),
            PathSegment::HorizontalLineTo { abs, x } => {
                self.line(Flat::new(if abs { x } else { here.x + x }, here.y), map)
            }
            PathSegment::VerticalLineTo { abs, y } => {
                self.line(Flat::new(here.x, if abs { y } else { here.y + y }), map)
            }
            PathSegment::ClosePath { .. } => self.line(self.begin, map),
            PathSegment::CurveTo { abs, x1, y1, x2, y2, x, y } => {
                self.curve([place(abs, x1, y1), place(abs, x2, y2), place(abs, x, y)], map)
            }
            PathSegment::SmoothCurveTo { abs, x2, y2, x, y } => {
                self.curve([mirrored(cubic), place(abs, x2, y2), place(abs, x, y)], map)
            }
            PathSegment::Quadratic { abs, x1, y1, x, y } => self.squared(place(abs, x1, y1), place(abs, x, y), map),
            PathSegment::SmoothQuadratic { abs, x, y } => self.squared(mirrored(square), place(abs, x, y), map),
            PathSegment::EllipticalArc { abs, rx, ry, x_axis_rotation, large_arc, sweep, x, y } => {
                let to = place(abs, x, y);
                self.at = to;
                let turned = Flat::from_angle(x_axis_rotation.to_radians());
                arc(here, to, (turned * rx.abs(), turned.perp() * ry.abs()), large_arc, sweep, map)
            }
        }
    }

    fn line(&mut self, to: Flat, map: &Affine) -> Vec<Span> {
        let from = std::mem::replace(&mut self.at, to);
        map.line(from, to)
    }

    fn curve(&mut self, [p, q, to]: [Flat; 3], map: &Affine) -> Vec<Span> {
        let from = std::mem::replace(&mut self.at, to);
        self.cubic = Some(q);
        map.cubic([from, p, q, to])
    }

    fn squared(&mut self, pole: Flat, to: Flat, map: &Affine) -> Vec<Span> {
        let from = std::mem::replace(&mut self.at, to);
        self.square = Some(pole);
        map.cubic([from, from + (pole - from) * (2.0 / 3.0), to + (pole - to) * (2.0 / 3.0), to])
    }
}

/// An arc by its ends, as SVG's implementation notes give its centre.
fn arc(from: Flat, to: Flat, (u, v): (Flat, Flat), large: bool, sweep: bool, map: &Affine) -> Vec<Span> {
    let (rx, ry) = (u.length(), v.length());
    if rx == 0.0 || ry == 0.0 || from == to {
        return map.line(from, to);
    }
    // On the unit circle, both radii enlarged where they do not reach.
    let unit = |p: Flat| Flat::new(p.dot(u) / (rx * rx), p.dot(v) / (ry * ry));
    let (a, b) = (unit(from), unit(to));
    let half = (b - a) * 0.5;
    let grow = half.length().max(1.0);
    let (a, b) = (a / grow, b / grow);
    let off = (1.0 - (half / grow).length_squared()).max(0.0).sqrt();
    let side = if large == sweep { -1.0 } else { 1.0 };
    let centre = (a + b) * 0.5 + (b - a).perp().normalize_or(Flat::Y) * (off * side);
    let (begin, end) = ((a - centre).to_angle(), (b - centre).to_angle());
    let mut around = (end - begin).rem_euclid(TAU);
    if !sweep {
        around -= TAU;
    }
    let (u, v) = (u * grow, v * grow);
    map.oval(u * centre.x + v * centre.y, (u, v), begin, begin + around)
}
