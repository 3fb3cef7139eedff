//! The rows of the list as they are told beside the board.

use nimbet_profile::catch::line_of;
use nimbet_profile::drawing::{Drawing, Line, Shape};
use nimbet_profile::{Flat, Network, Span, text};
use schemars::JsonSchema;
use serde::Serialize;

use crate::words::{count, figure, millimetres};

/// A line's row in the list.
#[derive(Clone, Debug, Serialize, JsonSchema)]
pub struct Row {
    /// The line.
    pub name: String,
    /// What kind of line it is, in a word.
    pub kind: String,
    /// As it is written, without its name.
    pub text: String,
    /// Its measures.
    pub told: String,
}

pub(super) fn rows(drawing: &Drawing, network: &Network) -> Vec<Row> {
    let mut curves = network.curves.iter().peekable();
    let row = |line: &Line| {
        let mut own = Vec::new();
        while let Some(c) = curves.next_if(|c| line_of(&c.name) == line.name) {
            own.push(c.spans.as_slice());
        }
        let text = text::row(&line.draw);
        let kind = text.split_whitespace().next().unwrap_or_default().to_owned();
        Row { name: line.name.clone(), kind, text, told: measures(&line.draw, &own) }
    };
    drawing.lines.iter().map(row).collect()
}

/// A line's measures in words.
fn measures(shape: &Shape, curves: &[&[Span]]) -> String {
    let length: f64 = curves.iter().flat_map(|c| c.iter()).map(Span::length).sum();
    let spans = || curves.iter().flat_map(|c| c.iter());
    let of = |names: &[String]| names.join(", ");
    let by = |size: &[f64; 2]| format!("{} × {}", figure(size[0]), millimetres(size[1]));
    match shape {
        Shape::Line { from, to } => {
            let angle = (Flat::from(*to) - Flat::from(*from)).to_angle().to_degrees();
            format!("{} at {}°", millimetres(length), figure(angle))
        }
        Shape::Chain { legs, closed, .. } => {
            let round = legs.iter().filter(|l| l.bulge != 0.0).count();
            let straight = curves.len() - round.min(curves.len());
            let arcs = if round > 0 { format!(", {}", count(round, "arc", "arcs")) } else { String::new() };
            let end = if *closed { ", closed" } else { "" };
            format!("{}{arcs}, {}{end}", count(straight, "line", "lines"), millimetres(length))
        }
        Shape::Arc { .. } => {
            let turn: f64 = spans().map(|s| (s.hi - s.lo).abs().to_degrees()).sum();
            format!("r {}, {}°", millimetres(length / turn.to_radians().max(1e-12)), figure(turn))
        }
        Shape::Circle { diameter, .. } => format!("⌀ {}", millimetres(*diameter)),
        Shape::Ellipse { size, .. } => by(size),
        Shape::Frame { size, radius, .. } if *radius > 0.0 => {
            format!("{}, corners r {}", by(size), millimetres(*radius))
        }
        Shape::Frame { size, .. } => by(size),
        Shape::Slot { from, to, width } => {
            let apart = Flat::from(*from).distance(Flat::from(*to));
            format!("{} from middle to middle, {} wide", millimetres(apart), millimetres(*width))
        }
        Shape::Polygon { diameter, sides, .. } => format!("{sides} sides, ⌀ {}", millimetres(*diameter)),
        Shape::Curve { points, closed, .. } => {
            let end = if *closed { ", closed" } else { "" };
            format!("through {}, {}{end}", count(points.len(), "point", "points"), millimetres(length))
        }
        Shape::Bezier { legs, .. } => format!("{}, {}", count(legs.len(), "leg", "legs"), millimetres(length)),
        Shape::Letters { text, height, .. } => format!("“{text}”, {} high", millimetres(*height)),
        Shape::Spiral { turns, .. } => format!("{} turns, {}", figure(*turns), millimetres(length)),
        Shape::Row { of: names, count, .. } => format!("{count} of {}", of(names)),
        Shape::Ring { of: names, count, .. } => format!("{count} of {} round", of(names)),
        Shape::Mirrored { of: names, .. } => of(names),
    }
}
