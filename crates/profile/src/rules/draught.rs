//! Figures and rules as a draughtsman writes them on the paper.

use schemars::JsonSchema;
use serde::Serialize;

use super::element::Element;
use super::system::System;
use super::{Hold, Rule, Spot};
use crate::Flat;
use crate::drawing::Drawing;
use crate::text::rule_row;

/// A hold as it is written on the paper.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Draught {
    /// The hold.
    pub name: String,
    /// Its row, without its name.
    pub text: String,
    /// Its figure, mm or degrees.
    pub figure: Option<f64>,
    /// The unit of the figure.
    pub unit: String,
    /// What stands before the figure: ⌀ for a diameter, R for a radius.
    pub before: String,
    /// Where it is written, mm.
    pub at: [f64; 2],
    /// The lines that show what it measures, mm.
    pub strokes: Vec<Vec<[f64; 2]>>,
    /// The curves it speaks of.
    pub of: Vec<String>,
}

/// How far figures stand off what they measure, as a share of the drawing.
const OFF: f64 = 0.07;
/// How far the fine lines go on beyond a measure, as a share of that.
const BEYOND: f64 = 0.25;

/// The margin round a drawing, where level and upright measures stand.
struct Margin {
    least: Flat,
    most: Flat,
    /// How many stand on each side: below, above, left, right.
    taken: [u32; 4],
}

impl Drawing {
    /// All holds as they are written on the paper.
    pub fn draughts(&self) -> Vec<Draught> {
        let system = System::new(self);
        let (least, most) = system.bounds();
        let mut margin = Margin { least, most, taken: [0; 4] };
        self.holds.iter().map(|hold| system.draught(hold, &mut margin)).collect()
    }
}

impl System<'_> {
    fn draught(&self, hold: &Hold, margin: &mut Margin) -> Draught {
        let aside = Flat::from(hold.aside.unwrap_or_default());
        let (at, strokes) = self.drawn(&hold.rule, aside, margin).unwrap_or_default();
        let before = match hold.rule {
            Rule::Diameter { .. } => "⌀ ",
            Rule::Radius { .. } => "R ",
            _ => "",
        };
        Draught {
            name: hold.name.clone(),
            text: rule_row(&hold.rule),
            figure: hold.rule.figure(),
            unit: if hold.rule.figure().is_some() { hold.rule.unit().to_owned() } else { String::new() },
            before: before.to_owned(),
            at: at.to_array(),
            strokes: strokes.into_iter().map(|s| s.into_iter().map(|p| p.to_array()).collect()).collect(),
            of: hold.rule.curves(),
        }
    }

    /// The ends of a straight line.
    pub fn ends(&self, line: &str) -> Option<[Flat; 2]> {
        match self.element(line).ok()? {
            Element::Straight { from, to } => Some([from, to].map(|p| Flat::new(p.x.v, p.y.v))),
            _ => None,
        }
    }

    fn drawn(&self, rule: &Rule, aside: Flat, margin: &mut Margin) -> Option<(Flat, Vec<Vec<Flat>>)> {
        let off = self.extent * OFF;
        let spots = |[a, b]: &[Spot; 2]| Some([self.place(a)?, self.place(b)?]);
        match rule {
            Rule::Length { of, .. } => {
                let [a, b] = self.ends(of)?;
                Some(self.measure([a, b], (b - a).perp(), (aside, margin)))
            }
            Rule::Distance { between, .. } => {
                let [a, b] = spots(between)?;
                Some(self.measure([a, b], (b - a).perp(), (aside, margin)))
            }
            Rule::Across { between, .. } => Some(self.measure(spots(between)?, Flat::Y, (aside, margin))),
            Rule::Rise { between, .. } => Some(self.measure(spots(between)?, Flat::X, (aside, margin))),
            Rule::Off { spot, line, .. } => {
                let (p, [a, b]) = (self.place(spot)?, self.ends(line)?);
                let way = (b - a).normalize_or_zero();
                Some(self.measure([p, a + way * (p - a).dot(way)], way, (aside, margin)))
            }
            Rule::Radius { of, .. } | Rule::Diameter { of, .. } => {
                let Element::Round { centre, radius, arc } = self.element(of).ok()? else { return None };
                let centre = Flat::new(centre.x.v, centre.y.v);
                let away = arc.map_or(Flat::ONE, |a| Flat::new(a.middle.x.v, a.middle.y.v) - centre);
                let way = away.normalize_or(Flat::ONE.normalize());
                let rim = centre + way * radius.v;
                let at = rim + way * off + aside;
                let from = if matches!(rule, Rule::Diameter { .. }) { centre - way * radius.v } else { centre };
                Some((at, vec![vec![from, rim, at]]))
            }
            Rule::Angle { of, .. } => {
                let [a, b] = self.ends(of)?;
                Some(self.arc((a, Flat::X), b - a, aside))
            }
            Rule::Corner { lines, back, .. } => {
                let from = |n: usize| self.ends(&lines[n]).map(|[a, b]| if back[n] { [b, a] } else { [a, b] });
                let ([a, b], [c, d]) = (from(0)?, from(1)?);
                Some(self.arc(((a + c) * 0.5, b - a), d - c, aside))
            }
            // Rules stand where their first line is.
            _ => {
                let curves = rule.curves();
                let middle = |name: &String| match self.element(name).ok()? {
                    Element::Straight { from, to } => Some(Flat::new(from.x.v + to.x.v, from.y.v + to.y.v) * 0.5),
                    Element::Round { centre, radius, arc } => {
                        Some(arc.map_or(Flat::new(centre.x.v, centre.y.v + radius.v), |a| {
                            Flat::new(a.middle.x.v, a.middle.y.v)
                        }))
                    }
                    Element::Oval { centre, .. } => Some(Flat::new(centre.x.v, centre.y.v)),
                    Element::Free { from, .. } => Some(Flat::new(from.x.v, from.y.v)),
                };
                let spot = match rule {
                    Rule::Fixed { spot, .. } | Rule::On { spot, .. } => self.place(spot),
                    Rule::Together { between } => self.place(&between[0]),
                    _ => None,
                };
                Some((spot.or_else(|| curves.iter().find_map(middle))? + aside, vec![]))
            }
        }
    }

    /// A measure between two places, written beside them on the side away from the drawing; a level or an upright one outside
    /// the drawing, those of one side one after the other.
    fn measure(&self, [a, b]: [Flat; 2], side: Flat, (aside, margin): (Flat, &mut Margin)) -> (Flat, Vec<Vec<Flat>>) {
        let off = self.extent * OFF;
        let side = side.normalize_or(Flat::Y);
        let (a0, b0) = (a.dot(side), b.dot(side));
        let Margin { least, most, .. } = *margin;
        let middle = ((least + most) * 0.5).dot(side);
        let (low, high) = (a0.min(b0), a0.max(b0));
        let outward = (low + high) * 0.5 >= middle;
        let level = if side.x.abs().min(side.y.abs()) < 1e-6 {
            let way = if outward { side } else { -side };
            let n = if way.y.abs() > 0.5 { usize::from(way.y > 0.0) } else { 2 + usize::from(way.x > 0.0) };
            margin.taken[n] += 1;
            let bound = [least, most].into_iter().map(|p| p.dot(way)).fold(f64::NEG_INFINITY, f64::max);
            let bound = bound + off * f64::from(margin.taken[n]);
            if outward { bound } else { -bound }
        } else if outward {
            high + off
        } else {
            low - off
        } + aside.dot(side);
        let lift = |p: Flat| p + side * (level - p.dot(side));
        let past = |p: Flat| {
            let to = lift(p);
            vec![p, to + (to - p).normalize_or_zero() * off * BEYOND]
        };
        let along = (lift(b) - lift(a)).normalize_or_zero();
        let at = (lift(a) + lift(b)) * 0.5 + along * aside.dot(along);
        (at, vec![past(a), past(b), vec![lift(a), lift(b)]])
    }

    /// An angle from one way to another, written on an arc.
    fn arc(&self, (corner, u): (Flat, Flat), v: Flat, aside: Flat) -> (Flat, Vec<Vec<Flat>>) {
        const STEPS: usize = 16;
        let radius = (u.length().min(v.length()) * 0.5).max(self.extent * OFF).min(self.extent * 4.0 * OFF);
        let (start, turn) = (u.to_angle(), u.angle_to(v));
        let on = |k: usize| corner + Flat::from_angle(start + turn * k as f64 / STEPS as f64) * radius;
        let way = Flat::from_angle(start + turn * 0.5);
        let arm = |way: Flat| vec![corner, corner + way.normalize_or_zero() * radius * (1.0 + BEYOND)];
        (corner + way * (radius + self.extent * OFF * 0.6) + aside, vec![(0..=STEPS).map(on).collect(), arm(u)])
    }

    /// The corners of a box round all places and circles.
    fn bounds(&self) -> (Flat, Flat) {
        let curves = self.drawing.curves().unwrap_or_default();
        let on = curves.iter().flat_map(|c| &c.spans).flat_map(|s| [s.from(), s.at(0.5), s.to()]);
        let (least, most) = on.fold((Flat::INFINITY, Flat::NEG_INFINITY), |(a, b), p| (a.min(p), b.max(p)));
        if least.is_finite() { (least, most) } else { (Flat::ZERO, Flat::ZERO) }
    }
}
