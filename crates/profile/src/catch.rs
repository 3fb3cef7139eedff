//! What the pointer catches while something is drawn: places with a name, places on lines, level and upright.

use crate::handles::middle_of;
use crate::network::Network;
use crate::{Flat, Form};

/// A place that has a name.
#[derive(Clone, Debug, PartialEq)]
pub struct Named {
    /// Where.
    pub at: Flat,
    /// What it is: `end of a`, `centre of b`.
    pub text: String,
}

/// Where the pointer is, and how far it reaches.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Pointer {
    /// Where.
    pub at: Flat,
    /// How far it catches, mm.
    pub reach: f64,
    /// The place a line comes from.
    pub from: Option<Flat>,
    /// What free places are rounded to, mm; 0 leaves them.
    pub grid: f64,
}

/// What was caught.
#[derive(Clone, Debug, PartialEq)]
pub struct Caught {
    /// Where.
    pub at: Flat,
    /// What, in words; nothing for a free place.
    pub text: String,
}

/// More named places than this are not looked through for what is level.
const MOST_LEVEL: usize = 2_000;

/// The places that have a name: of lines that are not left out, their ends, middles and centres, the quarters of circles, and crossings.
pub fn named(network: &Network, left_out: &dyn Fn(&str) -> bool) -> Vec<Named> {
    let mut all = vec![Named { at: Flat::ZERO, text: "zero".into() }];
    let mut put = |at: Flat, text: String| all.push(Named { at, text });
    for (n, curve) in network.curves.iter().enumerate().filter(|(_, c)| !left_out(line_of(&c.name))) {
        let name = &curve.name;
        let (first, last) = (curve.spans[0], curve.spans[curve.spans.len() - 1]);
        let round = matches!(first.form, Form::Arc { .. } | Form::Ellipse { .. });
        if !network.is_closed(n) {
            put(first.from(), format!("beginning of {name}"));
            put(last.to(), format!("end of {name}"));
            if curve.spans.len() % 2 == 1 {
                put(curve.spans[curve.spans.len() / 2].at(0.5), format!("middle of {name}"));
            } else {
                put(curve.spans[curve.spans.len() / 2].from(), format!("middle of {name}"));
            }
        }
        if let Some(middle) = middle_of(&first.form) {
            put(middle, format!("centre of {name}"));
        }
        if network.is_closed(n) && round {
            curve.spans.iter().for_each(|s| put(s.from(), format!("quarter of {name}")));
        }
        if let Form::Cubic(_) = first.form {
            curve.spans.iter().skip(1).for_each(|s| put(s.from(), format!("point of {name}")));
        }
    }
    for (place, meets) in network.meets.iter().enumerate() {
        if let [a, b, ..] = meets.through[..] {
            let (a, b) = (&network.curves[a].name, &network.curves[b].name);
            if a != b && !left_out(line_of(a)) && !left_out(line_of(b)) {
                put(network.places[place], format!("crossing of {a} and {b}"));
            }
        }
    }
    all
}

/// The line a curve is of: `b` for `b.3`.
pub fn line_of(curve: &str) -> &str {
    curve.split('.').next().unwrap_or(curve)
}

/// What the pointer catches: a named place first, then where a line from `from` meets another square or touches it, then the nearest
/// place on a line, then what is level or upright with a named place; else the grid.
pub fn catch(network: &Network, names: &[Named], pointer: &Pointer, left_out: &dyn Fn(&str) -> bool) -> Caught {
    let Pointer { at, reach, from, grid } = *pointer;
    let nearest = names
        .iter()
        .map(|n| (n.at.distance(at), n))
        .filter(|(off, n)| *off <= reach && from.is_none_or(|f| f.distance(n.at) > reach * 1e-3))
        .min_by(|a, b| a.0.total_cmp(&b.0));
    if let Some((_, found)) = nearest {
        return Caught { at: found.at, text: found.text.clone() };
    }
    if let Some(found) = on_a_line(network, pointer, left_out) {
        return found;
    }
    level(names, pointer).unwrap_or_else(|| Caught { at: rounded(at, grid), text: String::new() })
}

fn on_a_line(network: &Network, pointer: &Pointer, left_out: &dyn Fn(&str) -> bool) -> Option<Caught> {
    let Pointer { at, reach, from, .. } = *pointer;
    let spans = network.curves.iter().filter(|c| !left_out(line_of(&c.name)));
    let near = spans.flat_map(|c| c.spans.iter().map(move |s| (c, s))).filter_map(|(c, s)| {
        let (share, off) = s.nearest(at);
        (off <= reach).then_some((off, c, s, share))
    });
    let (_, curve, span, share) = near.min_by(|a, b| a.0.total_cmp(&b.0))?;
    let name = &curve.name;
    if let Some(from) = from {
        // Where a line from there stands square on it, or touches it, if that is within reach.
        let square = span.nearest(from).0;
        if (1e-9..1.0 - 1e-9).contains(&square) && span.at(square).distance(at) <= reach {
            return Some(Caught { at: span.at(square), text: format!("square to {name}") });
        }
        if let Form::Arc { centre, radius } = span.form {
            let touching = touched(from, centre, radius).into_iter().find(|p| p.distance(at) <= reach);
            if let Some(touching) = touching.filter(|p| span.nearest(*p).1 <= radius * 1e-9) {
                return Some(Caught { at: touching, text: format!("tangent to {name}") });
            }
        }
    }
    Some(Caught { at: span.at(share), text: format!("on {name}") })
}

/// Where lines from a place touch a circle.
fn touched(from: Flat, centre: Flat, radius: f64) -> Vec<Flat> {
    let off = from - centre;
    let along = radius * radius / off.length_squared();
    if along.is_nan() || along >= 1.0 {
        return vec![];
    }
    let side = off.perp() * (along * (1.0 - along)).sqrt();
    vec![centre + off * along + side, centre + off * along - side]
}

/// Level or upright with where the line comes from or with a named place, or both.
fn level(names: &[Named], pointer: &Pointer) -> Option<Caught> {
    let Pointer { at, reach, from, grid } = *pointer;
    let mut other = rounded(at, grid);
    let named = names.iter().take(MOST_LEVEL).map(|n| (n.at, n.text.as_str()));
    let best = |off: &dyn Fn(Flat) -> f64| {
        let all = from.map(|f| (f, "")).into_iter().chain(named.clone());
        let all = all.map(|(p, text)| (off(p).abs(), p, text)).filter(|(off, ..)| *off <= reach * 0.5);
        all.min_by(|a, b| a.0.total_cmp(&b.0))
    };
    let (flat, upright) = (best(&|p| p.y - at.y), best(&|p| p.x - at.x));
    let said = |what: &str, text: &str| if text.is_empty() { what.to_owned() } else { format!("{what} with {text}") };
    let mut told = Vec::new();
    if let Some((_, p, text)) = flat {
        other.y = p.y;
        told.push(said("level", text));
    }
    if let Some((_, p, text)) = upright {
        other.x = p.x;
        told.push(said("upright", text));
    }
    // The same place as where it comes from is no line.
    let some = !told.is_empty() && from.is_none_or(|f| f.distance(other) > reach);
    some.then(|| Caught { at: other, text: told.join(", ") })
}

/// A grid finer than this, mm, is none.
const FINEST_GRID: f64 = 1e-9;

fn rounded(at: Flat, grid: f64) -> Flat {
    // By dividing: products with 0.1 and the like end in nines.
    let one = |x: f64| if grid >= 1.0 { (x / grid).round() * grid } else { (x / grid).round() / (1.0 / grid).round() };
    if grid >= FINEST_GRID { Flat::new(one(at.x), one(at.y)) } else { at }
}
