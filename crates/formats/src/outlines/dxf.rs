//! DXF, as text: groups of a code and a value, a line each.

use std::collections::HashMap;
use std::f64::consts::TAU;

use nimbet_profile::fit::spans_of;
use nimbet_profile::{Flat, Span, smooth_through};

use super::affine::Affine;
use super::spline::Spline;
use super::{DEEPEST, Found, malformed};
use crate::LengthUnit;
use crate::errors::ReadError;

/// A group: its code, its value, and the line of the value.
struct Group<'a> {
    code: i32,
    value: &'a str,
    line: u64,
}

/// An entity: what it is, with its groups.
struct Entity<'a> {
    kind: &'a str,
    line: u64,
    groups: Vec<Group<'a>>,
    /// The vertices of an old polyline.
    vertices: Vec<Vec<Group<'a>>>,
}

/// The most groups that are read.
const MOST_GROUPS: usize = 4_000_000;
/// The most copies one insert makes.
const MOST_COPIES: f64 = 10_000.0;

pub(super) fn read(bytes: &[u8], untold: Option<LengthUnit>) -> Result<Found, ReadError> {
    let text = String::from_utf8_lossy(bytes);
    let groups = groups(&text)?;
    let (mut header, mut blocks, mut entities) = (HashMap::new(), HashMap::new(), Vec::new());
    let mut at = 0;
    while at < groups.len() {
        if groups[at].code == 0 && groups[at].value == "SECTION" {
            let name = groups.get(at + 1).map_or("", |g| g.value);
            let end = (at..groups.len()).find(|k| groups[*k].code == 0 && groups[*k].value == "ENDSEC");
            let end = end.ok_or_else(|| malformed(groups[at].line, format!("the section {name} does not end")))?;
            match name {
                "HEADER" => header = read_header(&groups[at + 2..end]),
                "BLOCKS" => blocks = read_blocks(&groups[at + 2..end]),
                "ENTITIES" => entities = entities_of(&groups[at + 2..end]),
                _ => {}
            }
            at = end;
        }
        at += 1;
    }
    let (unit, scale) = unit_of(header.get("$INSUNITS").copied(), untold);
    let mut drawing = Drawing { found: Found { unit, ..Found::default() }, blocks };
    drawing.take_all(&entities, &Affine::scaled(scale, scale), 0)?;
    Ok(drawing.found)
}

fn groups(text: &str) -> Result<Vec<Group<'_>>, ReadError> {
    let mut lines = text.lines().zip(1..);
    let mut groups = Vec::new();
    while let Some((code, line)) = lines.next() {
        let code = code.trim();
        if code.is_empty() && groups.is_empty() {
            continue;
        }
        let Ok(number) = code.parse::<i32>() else {
            let shown: String = code.chars().take(30).collect();
            return Err(malformed(line, format!("a group code is a number; '{shown}' stands there")));
        };
        let Some((value, line)) = lines.next() else {
            return Err(malformed(line, "the file ends within a group".to_owned()));
        };
        if number != 999 {
            groups.push(Group { code: number, value: value.trim(), line });
        }
        if groups.len() > MOST_GROUPS {
            return Err(malformed(line, format!("more than {MOST_GROUPS} groups")));
        }
    }
    let begins = groups.first().is_some_and(|g| g.code == 0);
    if begins { Ok(groups) } else { Err(malformed(1, "this is neither a DXF text file nor SVG")) }
}

/// Variables of the header that are whole numbers.
fn read_header<'a>(groups: &[Group<'a>]) -> HashMap<&'a str, i64> {
    let mut header = HashMap::new();
    for pair in groups.windows(2).filter(|p| p[0].code == 9 && p[1].code == 70) {
        if let Ok(value) = pair[1].value.parse() {
            header.insert(pair[0].value, value);
        }
    }
    header
}

fn unit_of(code: Option<i64>, untold: Option<LengthUnit>) -> (String, f64) {
    let (name, scale) = match code {
        Some(1) => ("inch", 25.4),
        Some(2) => ("foot", 304.8),
        Some(4) => ("millimetre", 1.0),
        Some(5) => ("centimetre", 10.0),
        Some(6) => ("metre", 1000.0),
        Some(9) => ("thousandth of an inch", 0.0254),
        Some(10) => ("yard", 914.4),
        Some(13) => ("micrometre", 1e-3),
        Some(14) => ("decimetre", 100.0),
        _ if untold.is_some() => {
            let unit = untold.unwrap_or(LengthUnit::Millimetre);
            return (format!("no unit given; taken for {}", unit.sign()), unit.millimetres());
        }
        None | Some(0) => ("no unit given; taken for millimetres", 1.0),
        Some(_) => ("a unit not known here; taken for millimetres", 1.0),
    };
    (name.to_owned(), scale)
}

fn entities_of<'a>(groups: &[Group<'a>]) -> Vec<Entity<'a>> {
    let copy = |g: &Group<'a>| Group { code: g.code, value: g.value, line: g.line };
    let mut entities: Vec<Entity<'a>> = Vec::new();
    let mut open = false;
    for group in groups {
        match (group.code, group.value) {
            (0, "VERTEX") if open => entities.last_mut().into_iter().for_each(|e| e.vertices.push(vec![])),
            (0, "SEQEND") if open => open = false,
            (0, kind) => {
                open = kind == "POLYLINE";
                entities.push(Entity { kind, line: group.line, groups: vec![], vertices: vec![] });
            }
            _ => {
                if let Some(last) = entities.last_mut() {
                    let held = last.vertices.last_mut().filter(|_| open).unwrap_or(&mut last.groups);
                    held.push(copy(group));
                }
            }
        }
    }
    entities
}

/// A block: its base point, and what is in it.
struct Block<'a> {
    base: Flat,
    entities: Vec<Entity<'a>>,
}

fn read_blocks<'a>(groups: &[Group<'a>]) -> HashMap<&'a str, Block<'a>> {
    let mut blocks: HashMap<&'a str, Block<'a>> = HashMap::new();
    let mut name = None;
    for entity in entities_of(groups) {
        match entity.kind {
            "BLOCK" => {
                let own = entity.text(2);
                name = own;
                let base = entity.point(10);
                own.into_iter().for_each(|n| drop(blocks.insert(n, Block { base, entities: vec![] })));
            }
            "ENDBLK" => name = None,
            _ => name
                .and_then(|n| blocks.get_mut(n))
                .into_iter()
                .for_each(|b| b.entities.push(Entity { ..entity_of(&entity) })),
        }
    }
    blocks
}

fn entity_of<'a>(e: &Entity<'a>) -> Entity<'a> {
    let copy =
        |groups: &[Group<'a>]| groups.iter().map(|g| Group { code: g.code, value: g.value, line: g.line }).collect();
    Entity {
        kind: e.kind,
        line: e.line,
        groups: copy(&e.groups),
        vertices: e.vertices.iter().map(|v| copy(v)).collect(),
    }
}

fn number(groups: &[Group<'_>], code: i32) -> Option<f64> {
    groups.iter().find(|g| g.code == code).and_then(|g| g.value.parse().ok()).filter(|x: &f64| x.is_finite())
}

fn numbers<'a>(groups: &'a [Group<'_>], code: i32) -> impl Iterator<Item = f64> + 'a {
    groups.iter().filter(move |g| g.code == code).filter_map(|g| g.value.parse().ok()).filter(|x: &f64| x.is_finite())
}

fn point(groups: &[Group<'_>], code: i32) -> Flat {
    Flat::new(number(groups, code).unwrap_or(0.0), number(groups, code + 10).unwrap_or(0.0))
}

impl<'a> Entity<'a> {
    fn number(&self, code: i32) -> Option<f64> {
        number(&self.groups, code)
    }

    fn point(&self, code: i32) -> Flat {
        point(&self.groups, code)
    }

    fn points(&self, code: i32) -> Vec<Flat> {
        numbers(&self.groups, code).zip(numbers(&self.groups, code + 10)).map(|(x, y)| Flat::new(x, y)).collect()
    }

    fn text(&self, code: i32) -> Option<&'a str> {
        self.groups.iter().find(|g| g.code == code).map(|g| g.value)
    }

    fn flags(&self) -> i64 {
        self.text(70).and_then(|t| t.parse().ok()).unwrap_or(0)
    }

    /// Whether it is drawn as seen from below.
    fn mirrored(&self) -> bool {
        self.number(230).is_some_and(|z| z < 0.0)
    }
}

struct Drawing<'a> {
    found: Found,
    blocks: HashMap<&'a str, Block<'a>>,
}

impl<'a> Drawing<'a> {
    fn take_all(&mut self, entities: &[Entity<'a>], map: &Affine, depth: usize) -> Result<(), ReadError> {
        for entity in entities {
            // What lies on a sheet of its own belongs to no outline.
            if entity.number(67) == Some(1.0) {
                continue;
            }
            let map = if entity.mirrored() { map.after(&Affine::scaled(-1.0, 1.0)) } else { *map };
            if entity.kind == "INSERT" {
                self.insert(entity, &map, depth)?;
            } else if let Some(curves) = curves_of(entity, &map)? {
                self.found.take(curves, entity.line)?;
            } else if !["ATTDEF", "ATTRIB", "SEQEND", "ENDBLK", "VIEWPORT"].contains(&entity.kind) {
                self.found.leave_out(&entity.kind.to_lowercase());
            }
        }
        Ok(())
    }

    fn insert(&mut self, entity: &Entity<'a>, map: &Affine, depth: usize) -> Result<(), ReadError> {
        let name = entity.text(2).unwrap_or_default();
        if depth >= DEEPEST {
            return Err(malformed(entity.line, format!("blocks within blocks more than {DEEPEST} deep")));
        }
        let Some(block) = self.blocks.get(name) else {
            self.found.leave_out("blocks that are not there");
            return Ok(());
        };
        let base = Affine::moved(-block.base);
        let inside: Vec<Entity<'a>> = block.entities.iter().map(entity_of).collect();
        let figure = |code: i32, or: f64| entity.number(code).unwrap_or(or);
        let (columns, rows) = (figure(70, 1.0).max(1.0), figure(71, 1.0).max(1.0));
        if columns * rows > MOST_COPIES {
            return Err(malformed(
                entity.line,
                format!("{} copies of a block; {MOST_COPIES} are read", columns * rows),
            ));
        }
        let turn = Affine::turned(figure(50, 0.0).to_radians());
        let scale = Affine::scaled(figure(41, 1.0), figure(42, 1.0));
        for row in 0..rows as u32 {
            for column in 0..columns as u32 {
                let step = Flat::new(f64::from(column) * figure(44, 0.0), f64::from(row) * figure(45, 0.0));
                let place = Affine::moved(entity.point(10)).after(&turn).after(&Affine::moved(step));
                let whole = map.after(&place.after(&scale.after(&base)));
                self.take_all(&inside, &whole, depth + 1)?;
            }
        }
        Ok(())
    }
}

/// The curves of an entity; nothing where it is none that has any.
fn curves_of(entity: &Entity<'_>, map: &Affine) -> Result<Option<Vec<Vec<Span>>>, ReadError> {
    let angle = |code: i32| entity.number(code).unwrap_or(0.0).to_radians();
    let after = |from: f64, to: f64| if to <= from { to + TAU } else { to };
    let radius = || (Flat::X * entity.number(40).unwrap_or(0.0), Flat::Y * entity.number(40).unwrap_or(0.0));
    Ok(Some(match entity.kind {
        "LINE" => vec![map.line(entity.point(10), entity.point(11))],
        "CIRCLE" => vec![map.oval(entity.point(10), radius(), 0.0, TAU)],
        "ARC" => {
            let (from, to) = (angle(50), angle(51));
            vec![map.oval(entity.point(10), radius(), from, after(from, to))]
        }
        "ELLIPSE" => {
            let (u, ratio) = (entity.point(11), entity.number(40).unwrap_or(1.0));
            let (from, to) = (entity.number(41).unwrap_or(0.0), entity.number(42).unwrap_or(TAU));
            vec![map.oval(entity.point(10), (u, u.perp() * ratio), from, after(from, to))]
        }
        "LWPOLYLINE" => {
            let mut vertices: Vec<(Flat, f64)> = Vec::new();
            for group in &entity.groups {
                let Ok(value) = group.value.parse::<f64>() else { continue };
                match group.code {
                    10 => vertices.push((Flat::new(value, 0.0), 0.0)),
                    20 => vertices.last_mut().into_iter().for_each(|v| v.0.y = value),
                    42 => vertices.last_mut().into_iter().for_each(|v| v.1 = value),
                    _ => {}
                }
            }
            polyline(&vertices, entity.flags() & 1 != 0, map)
        }
        "POLYLINE" => {
            // Nets of faces are no outlines.
            if entity.flags() & (16 | 64) != 0 {
                return Ok(None);
            }
            let vertex = |v: &Vec<Group<'_>>| (point(v, 10), number(v, 42).unwrap_or(0.0));
            let vertices: Vec<(Flat, f64)> = entity.vertices.iter().map(vertex).collect();
            polyline(&vertices, entity.flags() & 1 != 0, map)
        }
        "SPLINE" => vec![spline(entity, map)?],
        _ => return Ok(None),
    }))
}

fn polyline(vertices: &[(Flat, f64)], closed: bool, map: &Affine) -> Vec<Vec<Span>> {
    let next = vertices.iter().skip(1).chain(closed.then(|| vertices.first()).flatten());
    let leg = |((from, bulge), (to, _)): (&(Flat, f64), &(Flat, f64))| {
        let chord = *to - *from;
        if *bulge == 0.0 || !bulge.is_finite() || chord == Flat::ZERO {
            return map.line(*from, *to);
        }
        let radius = chord.length() * (1.0 + bulge * bulge) / (4.0 * bulge.abs());
        let centre = (*from + *to) * 0.5 + chord.perp() * ((1.0 - bulge * bulge) / (4.0 * bulge));
        let begin = (*from - centre).to_angle();
        map.oval(centre, (Flat::X * radius, Flat::Y * radius), begin, begin + 4.0 * bulge.atan())
    };
    vertices.iter().zip(next).map(leg).collect()
}

fn spline(entity: &Entity<'_>, map: &Affine) -> Result<Vec<Span>, ReadError> {
    let poles = entity.points(10);
    if poles.is_empty() {
        let through: Vec<Flat> = entity.points(11).into_iter().map(|p| map.place(p)).collect();
        return Ok(smooth_through(&through));
    }
    let weights: Vec<f64> = numbers(&entity.groups, 41).collect();
    let weight = |n: usize| if weights.len() == poles.len() { weights[n] } else { 1.0 };
    let pole = |(n, p): (usize, &Flat)| [p.x * weight(n), p.y * weight(n), weight(n)];
    let spline = Spline {
        degree: entity.number(71).unwrap_or(3.0).clamp(0.0, 100.0) as usize,
        knots: numbers(&entity.groups, 40).collect(),
        poles: poles.iter().enumerate().map(pole).collect(),
    };
    match spline.fault() {
        Some(why) => Err(malformed(entity.line, why)),
        None => Ok(spans_of(&spline.cubics(map))),
    }
}
