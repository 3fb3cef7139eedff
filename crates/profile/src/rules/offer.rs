//! What can be held of lines and places somebody points at.

use schemars::JsonSchema;
use serde::Serialize;

use super::element::Element;
use super::system::System;
use super::{Rule, Spot, Which};
use crate::drawing::Drawing;
use crate::text::{rule_row, spot};

/// Something that can be held.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Offer {
    /// What it is, in a word or two.
    pub word: String,
    /// The row it would be, with the figure as it is now.
    pub text: String,
    /// The figure as it is now.
    pub figure: Option<f64>,
    /// The unit of the figure.
    pub unit: String,
}

/// What somebody points at.
enum Thing {
    Spot(Spot),
    Straight(String),
    Round(String),
    Other(String),
}

impl Drawing {
    /// What can be held of things: each a place in words, or the name of a line or curve.
    ///
    /// # Errors
    /// Where there is no such thing.
    pub fn offers(&self, things: &[String]) -> Result<Vec<Offer>, String> {
        /// No rule speaks of more.
        const MOST: usize = 3;
        let (system, mut found) = (System::new(self), Vec::new());
        if things.len() > MOST {
            return Ok(vec![]);
        }
        for name in things {
            found.push(match spot(name) {
                Ok(spot) => {
                    system.place(&spot).ok_or_else(|| format!("there is no {spot}"))?;
                    Thing::Spot(spot)
                }
                Err(_) => match system.element(name)? {
                    Element::Straight { .. } => Thing::Straight(name.clone()),
                    Element::Round { .. } => Thing::Round(name.clone()),
                    _ => Thing::Other(name.clone()),
                },
            });
        }
        let rules = fitting(&found, &system);
        let offer = |(word, mut rule): (&str, Rule)| {
            let figure = system.measured(&rule);
            if let (Some(own), Some(figure)) = (rule.figure_mut(), figure) {
                *own = figure;
            }
            let unit = if figure.is_some() { rule.unit() } else { "" };
            Offer { word: word.to_owned(), text: rule_row(&rule), figure, unit: unit.to_owned() }
        };
        Ok(rules.into_iter().filter(|(_, rule)| system.can_hold(rule)).map(offer).collect())
    }
}

/// Which of two lines are taken back, so that both lead away from where they are nearest.
fn back(system: &System<'_>, a: &str, b: &str) -> [bool; 2] {
    let (Some(p), Some(q)) = (system.ends(a), system.ends(b)) else { return [false; 2] };
    let pairs = [[false, false], [true, false], [false, true], [true, true]];
    let apart = |[m, n]: &[bool; 2]| p[usize::from(*m)].distance(q[usize::from(*n)]);
    pairs.into_iter().min_by(|x, y| apart(x).total_cmp(&apart(y))).unwrap_or_default()
}

fn fitting(things: &[Thing], system: &System<'_>) -> Vec<(&'static str, Rule)> {
    let ends = |of: &String| [Which::Beginning, Which::End].map(|which| Spot { which, of: of.clone() });
    let lines = |a: &String, b: &String| [a.clone(), b.clone()];
    let middle = |of: &String| Spot { which: Which::Centre, of: of.clone() };
    let mm = 0.0;
    match things {
        [Thing::Straight(a)] => vec![
            ("length", Rule::Length { of: a.clone(), mm }),
            ("level", Rule::Level { between: ends(a) }),
            ("upright", Rule::Upright { between: ends(a) }),
            ("angle", Rule::Angle { of: a.clone(), degrees: 0.0 }),
        ],
        [Thing::Round(a)] => {
            let diameter = ("diameter", Rule::Diameter { of: a.clone(), mm });
            let radius = ("radius", Rule::Radius { of: a.clone(), mm });
            let at = system.place(&middle(a)).unwrap_or_default().to_array();
            let fixed = ("fixed", Rule::Fixed { spot: middle(a), at });
            // Of a whole circle people say the diameter.
            if system.is_arc(a) { vec![radius, diameter, fixed] } else { vec![diameter, radius, fixed] }
        }
        [Thing::Spot(a)] => {
            let at = system.place(a).unwrap_or_default().to_array();
            vec![("fixed", Rule::Fixed { spot: a.clone(), at })]
        }
        [Thing::Spot(a), Thing::Spot(b)] => {
            let between = [a.clone(), b.clone()];
            vec![
                ("distance", Rule::Distance { between: between.clone(), mm }),
                ("across", Rule::Across { between: between.clone(), mm }),
                ("rise", Rule::Rise { between: between.clone(), mm }),
                ("level", Rule::Level { between: between.clone() }),
                ("upright", Rule::Upright { between: between.clone() }),
                ("together", Rule::Together { between }),
            ]
        }
        [Thing::Spot(s), Thing::Straight(l)] | [Thing::Straight(l), Thing::Spot(s)] => vec![
            ("distance", Rule::Off { spot: s.clone(), line: l.clone(), mm }),
            ("on it", Rule::On { spot: s.clone(), line: l.clone() }),
        ],
        [Thing::Spot(s), Thing::Round(l) | Thing::Other(l)] | [Thing::Round(l) | Thing::Other(l), Thing::Spot(s)] => {
            let between = [s.clone(), middle(l)];
            vec![
                ("on it", Rule::On { spot: s.clone(), line: l.clone() }),
                ("distance", Rule::Distance { between: between.clone(), mm }),
                ("together", Rule::Together { between }),
            ]
        }
        [Thing::Straight(a), Thing::Straight(b)] => vec![
            ("alongside", Rule::Alongside { lines: lines(a, b) }),
            ("square", Rule::Square { lines: lines(a, b) }),
            ("in line", Rule::InLine { lines: lines(a, b) }),
            ("same size", Rule::SameSize { lines: lines(a, b) }),
            ("corner", Rule::Corner { lines: lines(a, b), back: back(system, a, b), degrees: 0.0 }),
            ("distance", Rule::Off { spot: ends(b)[0].clone(), line: a.clone(), mm }),
        ],
        [Thing::Straight(l), Thing::Round(r)] | [Thing::Round(r), Thing::Straight(l)] => vec![
            ("tangent", Rule::Tangent { lines: lines(l, r) }),
            ("distance", Rule::Off { spot: middle(r), line: l.clone(), mm }),
            ("middle on it", Rule::On { spot: middle(r), line: l.clone() }),
        ],
        [Thing::Round(a), Thing::Round(b)] => of_two_round(a, b, [middle(a), middle(b)]),
        [Thing::Spot(a), Thing::Spot(b), Thing::Straight(l)] => {
            vec![("mirrored", Rule::Mirrored { between: [a.clone(), b.clone()], line: l.clone() })]
        }
        [Thing::Round(a), Thing::Round(b), Thing::Straight(l)] => {
            vec![("mirrored", Rule::Mirrored { between: [middle(a), middle(b)], line: l.clone() })]
        }
        _ => vec![],
    }
}

/// What can be held of two round lines with these middles.
fn of_two_round(a: &str, b: &str, between: [Spot; 2]) -> Vec<(&'static str, Rule)> {
    let (lines, mm) = ([a.to_owned(), b.to_owned()], 0.0);
    vec![
        ("same centre", Rule::Together { between: between.clone() }),
        ("same size", Rule::SameSize { lines: lines.clone() }),
        ("tangent", Rule::Tangent { lines }),
        ("distance", Rule::Distance { between: between.clone(), mm }),
        ("across", Rule::Across { between: between.clone(), mm }),
        ("rise", Rule::Rise { between: between.clone(), mm }),
        ("level", Rule::Level { between: between.clone() }),
        ("upright", Rule::Upright { between }),
    ]
}
