//! What is caught and typed while something is drawn becomes rules and figures of it.

use nimbet_kernel::{Cancelled, Progress};

use super::settle::largest;
use super::system::System;
use super::{Rule, Spot, Which};
use crate::Flat;
use crate::drawing::{Drawing, Line, Shape};
use crate::hand::Click;
use crate::text::spot;

/// A place that was clicked is one of the line's within this, mm.
const HERE: f64 = 1e-6;

/// The figures that can be held, in reading order.
const FIGURES: [&str; 6] = ["length", "angle", "diameter", "width", "height", "radius"];

/// The curves of a line: its name, or with a number each.
fn curves_of(line: &Line) -> Vec<String> {
    let many = match &line.draw {
        Shape::Chain { legs, closed, .. } => legs.len() + usize::from(*closed),
        Shape::Frame { .. } => 8,
        Shape::Slot { .. } => 4,
        Shape::Polygon { sides, .. } => *sides as usize,
        _ => 1,
    };
    match many {
        1 => vec![line.name.clone()],
        n => (1..=n).map(|k| format!("{}.{k}", line.name)).collect(),
    }
}

/// The place of a line that is at a place.
fn spot_at(system: &System<'_>, line: &Line, at: Flat) -> Option<Spot> {
    let mut names = vec![line.name.clone()];
    names.extend(curves_of(line).into_iter().filter(|n| *n != line.name));
    let points = if let Shape::Curve { points, .. } = &line.draw { points.len() } else { 0 };
    let which = [Which::Beginning, Which::End, Which::Centre].into_iter().chain((1..=points).map(Which::Point));
    let all = which.flat_map(|which| names.iter().map(move |of| Spot { which, of: of.clone() }));
    all.into_iter().find(|s| system.place(s).is_some_and(|p| p.distance(at) <= HERE))
}

/// What the words for what was caught mean for a place of a line, and for the leg that ends there.
fn meant(words: &str, own: &Spot, before: Option<&Spot>, leg: Option<&str>) -> Vec<Rule> {
    let both = |other: Spot| [other, own.clone()];
    let on = |line: &str| Rule::On { spot: own.clone(), line: line.to_owned() };
    let with = |what: &str, text: &str| -> Option<Rule> {
        let other = match text.strip_prefix(what)?.strip_prefix(" with ") {
            Some(other) => spot(other).ok()?,
            None => before?.clone(),
        };
        Some(if what == "level" {
            Rule::Level { between: both(other) }
        } else {
            Rule::Upright { between: both(other) }
        })
    };
    let mut rules = Vec::new();
    for words in words.split(", ") {
        if let Some(rule) = with("level", words).or_else(|| with("upright", words)) {
            rules.push(rule);
        } else if let Some(line) = words.strip_prefix("on ") {
            rules.push(on(line));
        } else if let Some(line) = words.strip_prefix("square to ") {
            rules.push(on(line));
            let leg = leg.map(str::to_owned);
            rules.extend(leg.clone().map(|leg| Rule::Square { lines: [leg, line.to_owned()] }));
            // Of a round line the middle lies where the leg goes on to.
            let centre = Spot { which: Which::Centre, of: line.to_owned() };
            rules.extend(leg.map(|leg| Rule::On { spot: centre, line: leg }));
        } else if let Some(line) = words.strip_prefix("tangent to ") {
            rules.push(on(line));
            rules.extend(leg.map(|leg| Rule::Tangent { lines: [leg.to_owned(), line.to_owned()] }));
        } else if let Some(line) = words.strip_prefix("quarter of ") {
            let centre = Spot { which: Which::Centre, of: line.to_owned() };
            rules.extend([
                on(line),
                Rule::Level { between: both(centre.clone()) },
                Rule::Upright { between: both(centre) },
            ]);
        } else if let Some((a, b)) = words.strip_prefix("crossing of ").and_then(|w| w.split_once(" and ")) {
            rules.extend([on(a), on(b)]);
        } else if let Ok(other) = spot(words) {
            rules.push(Rule::Together { between: both(other) });
        }
    }
    rules
}

/// What a typed figure holds of a line; of a chain, of the leg.
fn figure(line: &Line, leg: Option<&str>, name: &str, value: f64) -> Option<Rule> {
    let part = |k: usize| format!("{}.{k}", line.name);
    let spot = |which: Which, k: usize| Spot { which, of: part(k) };
    let of = line.name.clone();
    match (&line.draw, name) {
        (Shape::Chain { .. }, "length") => Some(Rule::Length { of: leg?.to_owned(), mm: value }),
        (Shape::Chain { .. }, "angle") => Some(Rule::Angle { of: leg?.to_owned(), degrees: turned(value) }),
        (Shape::Chain { .. }, "radius") => Some(Rule::Radius { of: leg?.to_owned(), mm: value }),
        (Shape::Arc { .. }, "radius") => Some(Rule::Radius { of, mm: value }),
        (Shape::Circle { .. }, "diameter") => Some(Rule::Diameter { of, mm: value }),
        (Shape::Frame { radius, .. }, "width" | "height") if *radius == 0.0 => {
            Some(Rule::Length { of: part(if name == "width" { 1 } else { 2 }), mm: value })
        }
        (Shape::Frame { .. }, "width") => Some(Rule::Off { spot: spot(Which::Beginning, 3), line: part(7), mm: value }),
        (Shape::Frame { .. }, "height") => {
            Some(Rule::Off { spot: spot(Which::Beginning, 5), line: part(1), mm: value })
        }
        (Shape::Frame { .. }, "radius") => Some(Rule::Radius { of: part(2), mm: value }),
        (Shape::Slot { .. }, "length") => {
            Some(Rule::Distance { between: [spot(Which::Centre, 4), spot(Which::Centre, 2)], mm: value })
        }
        (Shape::Slot { .. }, "angle") => Some(Rule::Angle { of: part(1), degrees: turned(value) }),
        (Shape::Slot { .. }, "width") => Some(Rule::Off { spot: spot(Which::Beginning, 1), line: part(3), mm: value }),
        (Shape::Polygon { .. }, "diameter") => {
            let centre = Spot { which: Which::Centre, of };
            Some(Rule::Distance { between: [centre, spot(Which::Beginning, 1)], mm: value * 0.5 })
        }
        _ => None,
    }
}

/// An angle within a half turn.
fn turned(degrees: f64) -> f64 {
    let turned = degrees.rem_euclid(360.0);
    if turned > 180.0 { turned - 360.0 } else { turned }
}

impl Drawing {
    /// With the rules and figures that were caught and typed while its last line was drawn, as far as they say something new.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub(crate) fn with_caught(mut self, by: &[Click], progress: &Progress) -> Result<Self, Cancelled> {
        let Some(line) = self.lines.last().cloned() else { return Ok(self) };
        let chain = matches!(line.draw, Shape::Chain { .. });
        let curves = curves_of(&line);
        let mut rules: Vec<Rule> = Vec::new();
        let mut before: Option<Spot> = None;
        for (n, click) in by.iter().enumerate() {
            let leg = if chain {
                n.checked_sub(1).and_then(|n| curves.get(n))
            } else {
                curves.first().filter(|_| curves.len() == 1)
            };
            let leg = leg.map(String::as_str);
            let own = spot_at(&System::new(&self), &line, Flat::from(click.at));
            if let Some(own) = &own {
                rules.extend(meant(&click.caught, own, before.as_ref(), leg.filter(|_| chain)));
            }
            if chain && click.round && n >= 2 {
                rules.extend(leg.map(|leg| Rule::Tangent { lines: [curves[n - 2].clone(), leg.to_owned()] }));
            }
            let typed = FIGURES.iter().filter_map(|name| Some((*name, *click.typed.get(*name)?)));
            rules.extend(typed.filter_map(|(name, value)| figure(&line, leg, name, value)));
            before = own;
        }
        for rule in rules {
            let with = self.with_hold(rule);
            let own = with.holds.len() - 1;
            let system = System::new(&with);
            let Ok(branch) = system.branch(own, &system.x) else { continue };
            let off: Vec<f64> = system.rows(own, &branch, &system.x).off.iter().map(|j| j.v).collect();
            // What does not hold now was not meant; what holds already need not be said.
            let kept = largest(&off) <= system.kept() * 10.0 && with.check_holds().is_ok();
            if kept && with.said_by(own, progress)?.is_none() {
                self = with;
            }
        }
        Ok(self)
    }
}
