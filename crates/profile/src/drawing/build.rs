//! The spans of each shape.

use std::f64::consts::{PI, TAU};

use super::{FARTHEST, Growth, LEAST, Leg, MOST_LINES, MOST_TURNS, Shapes};
use crate::Flat;
use crate::span::{Form, Span, cubic, round, spiral};
use crate::through::through;

pub(super) fn all_finite(figures: &[f64]) -> Result<(), String> {
    if figures.iter().all(|x| x.is_finite()) { Ok(()) } else { Err("a figure is no number".into()) }
}

pub(super) fn measure(x: f64, what: &str) -> Result<f64, String> {
    if (LEAST..=2.0 * FARTHEST).contains(&x) {
        Ok(x)
    } else {
        Err(format!("its {what} is {x} mm; from {LEAST} to {} mm can be drawn", 2.0 * FARTHEST))
    }
}

/// A straight line between different places.
pub(super) fn straight(from: Flat, to: Flat) -> Result<Vec<Span>, String> {
    measure(from.distance(to), "length").map(|_| vec![Span::line(from, to)])
}

/// An arc by the tangent of a quarter of its angle.
pub(super) fn bulged(from: Flat, to: Flat, bulge: f64) -> Result<Vec<Span>, String> {
    let chord = measure(from.distance(to), "length")?;
    // So flat that it stands off its chord by less than what is drawn: a straight line.
    if (bulge * chord * 0.5).abs() < LEAST * 1e-3 {
        return straight(from, to);
    }
    let angle = 4.0 * bulge.atan();
    let radius = measure(chord * (1.0 + bulge * bulge) / (4.0 * bulge.abs()), "radius")?;
    let middle = (from + to) * 0.5;
    let centre = middle + (to - from).perp() * ((1.0 - bulge * bulge) / (4.0 * bulge));
    let start = (from - centre).to_angle();
    Ok(round(Form::Arc { centre, radius }, start, start + angle))
}

pub(super) fn through_three(from: Flat, via: Flat, to: Flat) -> Result<Vec<Span>, String> {
    let (a, b) = (via - from, to - via);
    measure(a.length(), "first stretch")?;
    measure(b.length(), "second stretch")?;
    if from.distance(to) < LEAST {
        return Err("it ends where it begins; that is a circle".into());
    }
    // The angle at `via` is half of what is left of the turn.
    let turn = a.perp_dot(b).atan2(a.dot(b));
    bulged(from, to, (turn * 0.5).tan())
}

pub(super) fn frame(centre: Flat, size: Flat, radius: f64, turned: f64) -> Shapes {
    let (w, h) = (measure(size.x, "width")?, measure(size.y, "height")?);
    if !(radius >= 0.0 && radius <= w.min(h) * 0.5) {
        return Err(format!("the radius of its corners is {radius} mm; from 0 to {} mm fit", w.min(h) * 0.5));
    }
    let way = Flat::from_angle(turned.to_radians());
    let at = |x: f64, y: f64| centre + way.rotate(Flat::new(x, y));
    let half = Flat::new(w, h) * 0.5;
    let corners = [(1.0, -1.0), (1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0)];
    let mut shapes = Vec::new();
    for (k, (x, y)) in corners.into_iter().enumerate() {
        // The side that leads to the corner, then the corner.
        let before = corners[(k + 3) % 4];
        let along = Flat::new(x - before.0, y - before.1) * 0.5;
        let begin = Flat::new(before.0 * half.x, before.1 * half.y) + along * radius;
        let end = Flat::new(x * half.x, y * half.y) - along * radius;
        if begin.distance(end) >= LEAST {
            shapes.push(vec![Span::line(at(begin.x, begin.y), at(end.x, end.y))]);
        }
        if radius >= LEAST {
            let middle = Flat::new(x * (half.x - radius), y * (half.y - radius));
            let start = turned.to_radians() + (k as f64 - 1.0) * PI * 0.5;
            let form = Form::Arc { centre: at(middle.x, middle.y), radius };
            shapes.push(round(form, start, start + PI * 0.5));
        }
    }
    Ok(shapes)
}

pub(super) fn slot(from: Flat, to: Flat, width: f64) -> Shapes {
    let r = measure(width, "width")? * 0.5;
    measure(from.distance(to), "length")?;
    let along = (to - from).to_angle();
    let side = Flat::from_angle(along).perp() * r;
    let cap = |centre: Flat, start: f64| round(Form::Arc { centre, radius: r }, start, start + PI);
    Ok(vec![
        vec![Span::line(from - side, to - side)],
        cap(to, along - PI * 0.5),
        vec![Span::line(to + side, from + side)],
        cap(from, along + PI * 0.5),
    ])
}

pub(super) fn polygon(centre: Flat, diameter: f64, sides: u32, turned: f64) -> Shapes {
    if !(3..=360).contains(&sides) {
        return Err(format!("it has {sides} sides; 3 to 360 can be drawn"));
    }
    let radius = measure(diameter, "diameter")? * 0.5;
    let corner = |k: u32| {
        centre + Flat::from_angle(turned.to_radians() + f64::from(k % sides) / f64::from(sides) * TAU) * radius
    };
    (0..sides).map(|k| straight(corner(k), corner(k + 1))).collect()
}

pub(super) fn curve(points: &[[f64; 2]], closed: bool, begin: Option<f64>, end: Option<f64>) -> Shapes {
    let points: Vec<Flat> = points.iter().map(|p| Flat::from(*p)).collect();
    let least = if closed { 3 } else { 2 };
    if points.len() < least || points.len() > MOST_LINES {
        return Err(format!("it goes through {} points; {least} to {MOST_LINES} can be drawn", points.len()));
    }
    let next = points.iter().skip(1).chain(closed.then_some(&points[0]));
    for (k, (a, b)) in points.iter().zip(next).enumerate() {
        if a.distance(*b) < LEAST {
            return Err(format!("its points {} and {} are the same place", k + 1, (k + 1) % points.len() + 1));
        }
    }
    let way = |angle: Option<f64>| angle.map(|a| Flat::from_angle(a.to_radians()));
    Ok(vec![through(&points, closed, way(begin), way(end)).into_iter().flat_map(cubic).collect()])
}

pub(super) fn bezier(from: Flat, legs: &[[[f64; 2]; 3]]) -> Shapes {
    if legs.is_empty() || legs.len() > MOST_LINES {
        return Err(format!("it has {} legs; 1 to {MOST_LINES} can be drawn", legs.len()));
    }
    let (mut at, mut curves) = (from, Vec::<Vec<Span>>::new());
    for (n, leg) in legs.iter().enumerate() {
        let [p, q, to] = leg.map(Flat::from);
        if [p, q, to].iter().all(|x| x.distance(at) < LEAST) {
            return Err(format!("leg {}: it stays in one place", n + 1));
        }
        let spans = cubic([at, p, q, to]);
        // What goes on smoothly is one curve.
        let smooth = curves.last().and_then(|c| c.last()).zip(spans.first());
        let smooth = smooth.is_some_and(|(a, b)| a.direction(1.0).dot(b.direction(0.0)) > 1.0 - 1e-9);
        match curves.last_mut() {
            Some(last) if smooth => last.extend(spans),
            _ => curves.push(spans),
        }
        at = to;
    }
    Ok(curves)
}

pub(super) fn spiralled(centre: Flat, radius: f64, grows: Growth, turns: f64, turned: f64) -> Shapes {
    if !(turns.abs() > 0.0 && turns.abs() <= MOST_TURNS) {
        return Err(format!("it makes {turns} turns; up to {MOST_TURNS} can be drawn"));
    }
    let (start, sweep) = (turned.to_radians(), turns * TAU);
    let way = turns.signum();
    let form = match grows {
        Growth::Pitch(pitch) => {
            if radius < 0.0 || radius + pitch * turns.abs() < 0.0 || pitch == 0.0 {
                return Err("its radius has to grow or shrink with each turn, and never below 0".into());
            }
            let growth = pitch * way / TAU;
            Form::Spiral { centre, radius: radius - growth * start, growth }
        }
        Growth::Factor(factor) => {
            measure(radius, "radius")?;
            if !(factor > 0.0 && factor != 1.0) {
                return Err("what its radius grows by with each turn is more than 0, and not 1".into());
            }
            let rate = factor.ln() * way / TAU;
            Form::Growing { centre, radius: radius * (-rate * start).exp(), rate }
        }
    };
    let spans = spiral(form, start, start + sweep);
    let ends = spans.first().zip(spans.last()).map(|(a, b)| (a.from().distance(centre), b.to().distance(centre)));
    match ends {
        Some((a, b)) if a.max(b) >= LEAST => Ok(vec![spans]),
        _ => Err("it stays in one place".into()),
    }
}

pub(super) fn chain(from: Flat, legs: &[Leg], closed: bool) -> Shapes {
    if legs.is_empty() || legs.len() > MOST_LINES {
        return Err(format!("it has {} legs; 1 to {MOST_LINES} can be drawn", legs.len()));
    }
    let mut shapes = Vec::new();
    let mut at = from;
    for (k, leg) in legs.iter().enumerate() {
        let to = Flat::from(leg.to);
        shapes.push(bulged(at, to, leg.bulge).map_err(|why| format!("leg {}: {why}", k + 1))?);
        at = to;
    }
    if closed && at.distance(from) >= LEAST {
        shapes.push(straight(at, from)?);
    }
    Ok(shapes)
}
