//! How a line is written in the list.

use std::fmt::{Arguments, Write as _};

use crate::drawing::{Growth, Shape};

/// A line's row, without its name.
pub fn row(shape: &Shape) -> String {
    let mut text = String::new();
    write(shape, &mut |what| {
        // Nothing fails that is written to a text.
        let _ = text.write_fmt(what);
    });
    text
}

fn at(p: &[f64; 2]) -> String {
    format!("{}, {}", p[0], p[1])
}

fn write(shape: &Shape, put: &mut dyn FnMut(Arguments<'_>)) {
    match shape {
        Shape::Line { from, to } => put(format_args!("line  from {}  to {}", at(from), at(to))),
        Shape::Chain { from, legs, closed } => {
            put(format_args!("chain  from {}", at(from)));
            for leg in legs {
                put(format_args!("  to {}", at(&leg.to)));
                if leg.bulge != 0.0 {
                    put(format_args!(" bulge {}", leg.bulge));
                }
            }
            put(format_args!("{}", if *closed { "  closed" } else { "" }));
        }
        Shape::Arc { from, via, to } => put(format_args!("arc  from {}  via {}  to {}", at(from), at(via), at(to))),
        Shape::Circle { centre, diameter } => put(format_args!("circle  at {}  diameter {diameter}", at(centre))),
        Shape::Ellipse { centre, size, turned, stretch } => {
            put(format_args!("ellipse  at {}  size {} x {}  turned {turned}", at(centre), size[0], size[1]));
            if let Some([from, to]) = stretch {
                put(format_args!("  stretch {from} to {to}"));
            }
        }
        Shape::Frame { centre, size, radius, turned } => {
            put(format_args!("frame  at {}  size {} x {}", at(centre), size[0], size[1]));
            put(format_args!("  radius {radius}  turned {turned}"));
        }
        Shape::Slot { from, to, width } => {
            put(format_args!("slot  from {}  to {}  width {width}", at(from), at(to)));
        }
        Shape::Polygon { centre, diameter, sides, turned } => {
            put(format_args!("polygon  at {}  diameter {diameter}  sides {sides}  turned {turned}", at(centre)));
        }
        Shape::Curve { .. } | Shape::Bezier { .. } | Shape::Letters { .. } | Shape::Spiral { .. } => free(shape, put),
        Shape::Row { .. } | Shape::Ring { .. } | Shape::Mirrored { .. } => copies_of(shape, put),
    }
}

/// A curve, letters or a spiral.
fn free(shape: &Shape, put: &mut dyn FnMut(Arguments<'_>)) {
    match shape {
        Shape::Curve { points, closed, begin, end } => {
            put(format_args!("curve"));
            for (n, point) in points.iter().enumerate() {
                put(format_args!("  {} {}", if n == 0 { "from" } else { "to" }, at(point)));
            }
            for (word, angle) in [("begin", begin), ("end", end)] {
                if let Some(angle) = angle {
                    put(format_args!("  {word} {angle}"));
                }
            }
            put(format_args!("{}", if *closed { "  closed" } else { "" }));
        }
        Shape::Bezier { from, legs } => {
            put(format_args!("bezier  from {}", at(from)));
            for [p, q, to] in legs {
                put(format_args!("  poles {} and {} to {}", at(p), at(q), at(to)));
            }
        }
        Shape::Letters { text, at: place, height, turned, middle } => {
            let said = text.replace('"', "\"\"");
            put(format_args!("letters  \"{said}\"  at {}  height {height}  turned {turned}", at(place)));
            put(format_args!("{}", if *middle { "  middle" } else { "" }));
        }
        Shape::Spiral { centre, radius, grows, turns, turned } => {
            let (word, by) = match grows {
                Growth::Pitch(by) => ("pitch", by),
                Growth::Factor(by) => ("factor", by),
            };
            put(format_args!(
                "spiral  at {}  radius {radius}  {word} {by}  turns {turns}  turned {turned}",
                at(centre)
            ));
        }
        _ => {}
    }
}

/// Copies of lines.
fn copies_of(shape: &Shape, put: &mut dyn FnMut(Arguments<'_>)) {
    let of = |names: &[String]| names.join(", ");
    match shape {
        Shape::Row { of: names, step, count } => {
            put(format_args!("row  of {}  by {}  count {count}", of(names), at(step)));
        }
        Shape::Ring { of: names, centre, count, angle } => {
            put(format_args!("ring  of {}  about {}  count {count}", of(names), at(centre)));
            if let Some(angle) = angle {
                put(format_args!("  angle {angle}"));
            }
        }
        Shape::Mirrored { of: names, from, to } => {
            put(format_args!("mirrored  of {}  from {}  to {}", of(names), at(from), at(to)));
        }
        _ => {}
    }
}
