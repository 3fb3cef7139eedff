//! Figures and rules as rows of the list.
//!
//! ```text
//! h1  length of a  40
//! h2  level a
//! h3  lies end of b on c.2
//! h4  distance centre of d from a  12
//! ```

use super::Words;
use crate::rules::{Hold, Rule, Spot, Which};

/// The kinds of figures and rules, for whoever wrote another.
pub(super) const RULES: &str = "length, distance, across, rise, radius, diameter, angle, corner, level, upright, together, lies, \
    in line, alongside, square, tangent, same size, same centre, mirrored or fixed";

/// The longest words for a place.
const LONGEST_SPOT: usize = 80;

/// Reads a place in words.
pub fn spot(text: &str) -> Result<Spot, String> {
    if text.len() > LONGEST_SPOT {
        return Err("that is no place of a line: too long".into());
    }
    let mut words = Words { rest: text };
    let spot = words.spot()?;
    match words.peek() {
        "" => Ok(spot),
        more => Err(format!("'{more}' is one word too many")),
    }
}

/// A rule's row, without its name.
pub fn rule_row(rule: &Rule) -> String {
    let line_of = |[a, b]: &[Spot; 2]| {
        let whole = a.of == b.of && (a.which, b.which) == (Which::Beginning, Which::End);
        if whole { a.of.clone() } else { format!("{a} and {b}") }
    };
    let both = |[a, b]: &[Spot; 2]| format!("{a} and {b}");
    let two = |[a, b]: &[String; 2]| format!("{a} and {b}");
    match rule {
        Rule::Level { between } => format!("level {}", line_of(between)),
        Rule::Upright { between } => format!("upright {}", line_of(between)),
        Rule::Together { between: [a, b] } if (a.which, b.which) == (Which::Centre, Which::Centre) => {
            format!("same centre {} and {}", a.of, b.of)
        }
        Rule::Together { between } => format!("together {}", both(between)),
        Rule::On { spot, line } => format!("lies {spot} on {line}"),
        Rule::InLine { lines } => format!("in line {}", two(lines)),
        Rule::Alongside { lines } => format!("alongside {}", two(lines)),
        Rule::Square { lines } => format!("square {}", two(lines)),
        Rule::Tangent { lines } => format!("tangent {}", two(lines)),
        Rule::SameSize { lines } => format!("same size {}", two(lines)),
        Rule::Mirrored { between, line } => format!("mirrored {} in {line}", both(between)),
        Rule::Fixed { spot, at } => format!("fixed {spot} at {}, {}", at[0], at[1]),
        Rule::Length { of, mm } => format!("length of {of}  {mm}"),
        Rule::Distance { between, mm } => format!("distance {}  {mm}", both(between)),
        Rule::Across { between, mm } => format!("across {}  {mm}", both(between)),
        Rule::Rise { between, mm } => format!("rise {}  {mm}", both(between)),
        Rule::Off { spot, line, mm } => format!("distance {spot} from {line}  {mm}"),
        Rule::Radius { of, mm } => format!("radius of {of}  {mm}"),
        Rule::Diameter { of, mm } => format!("diameter of {of}  {mm}"),
        Rule::Angle { of, degrees } => format!("angle of {of}  {degrees}"),
        Rule::Corner { lines: [a, b], back, degrees } => {
            let [a_back, b_back] = back.map(|back| if back { "back " } else { "" });
            format!("corner of {a_back}{a} and {b_back}{b}  {degrees}")
        }
    }
}

/// Reads a rule without a name.
///
/// # Errors
/// What is not understood, in words.
pub fn read_rule(text: &str) -> Result<Rule, String> {
    let mut words = Words { rest: text };
    let rule =
        words.rule().unwrap_or_else(|| Err(format!("'{}' is nothing that can be held; {RULES} are", words.peek())))?;
    match words.peek() {
        "" => Ok(rule),
        more => Err(format!("'{more}' is one word too many")),
    }
}

/// A hold's row with its name.
pub(super) fn hold_row(hold: &Hold) -> String {
    let aside = hold.aside.map_or(String::new(), |[x, y]| format!("  aside {x}, {y}"));
    format!("{}  {}{aside}", hold.name, rule_row(&hold.rule))
}

impl Words<'_> {
    fn spot(&mut self) -> Result<Spot, String> {
        let which = match self.peek().to_ascii_lowercase().as_str() {
            "zero" => {
                self.take();
                return Ok(Spot { which: Which::Zero, of: String::new() });
            }
            "beginning" => Which::Beginning,
            "end" => Which::End,
            "middle" => Which::Middle,
            "centre" => Which::Centre,
            "point" => Which::Point(0),
            "" => return Err("a place is missing: 'end of a', 'centre of b', 'zero' …".into()),
            other => {
                return Err(format!(
                    "'{other}' is no place; beginning, end, middle, centre, point 3 (of a line) and zero are"
                ));
            }
        };
        self.take();
        let which = if which == Which::Point(0) { Which::Point(self.whole("which point")? as usize) } else { which };
        self.need("of", "its line")?;
        Ok(Spot { which, of: self.curve()? })
    }

    /// A line, or one of several it has: `a`, `b.3`.
    fn curve(&mut self) -> Result<String, String> {
        let word = self.take();
        let fine = word.split('.').all(|part| !part.is_empty() && part.chars().all(|c| c.is_ascii_alphanumeric()));
        if fine { Ok(word.to_owned()) } else { Err(format!("'{word}' is no line")) }
    }

    fn both(&mut self) -> Result<[Spot; 2], String> {
        let first = self.spot()?;
        self.need("and", "the other place")?;
        Ok([first, self.spot()?])
    }

    fn two(&mut self) -> Result<[String; 2], String> {
        let first = self.curve()?;
        self.need("and", "the other line")?;
        Ok([first, self.curve()?])
    }

    /// The ends of a line, or two places.
    fn ends_or_both(&mut self) -> Result<[Spot; 2], String> {
        let kept = self.rest;
        if let Ok(both) = self.both() {
            return Ok(both);
        }
        // A line may be called as places are; then it stands alone.
        self.rest = kept;
        let of = self.curve()?;
        if !matches!(self.peek(), "" | "aside") {
            self.rest = kept;
            return self.both();
        }
        Ok([Which::Beginning, Which::End].map(|which| Spot { which, of: of.clone() }))
    }

    fn of_curve(&mut self) -> Result<String, String> {
        self.need("of", "its line")?;
        self.curve()
    }

    /// A rule, if one begins here.
    pub(super) fn rule(&mut self) -> Option<Result<Rule, String>> {
        let kept = self.rest;
        let kind = self.take().to_ascii_lowercase();
        let second = self.peek().to_ascii_lowercase();
        let known = match kind.as_str() {
            "in" => second == "line",
            "same" => second == "size" || second == "centre",
            "mirrored" => second != "of",
            "length" | "distance" | "across" | "rise" | "radius" | "diameter" | "angle" | "corner" | "level"
            | "upright" | "together" | "lies" | "alongside" | "square" | "tangent" | "fixed" => true,
            _ => false,
        };
        if !known {
            self.rest = kept;
            return None;
        }
        Some(self.rule_of(&kind))
    }

    fn rule_of(&mut self, kind: &str) -> Result<Rule, String> {
        Ok(match kind {
            "level" => Rule::Level { between: self.ends_or_both()? },
            "upright" => Rule::Upright { between: self.ends_or_both()? },
            "together" => Rule::Together { between: self.both()? },
            "lies" => {
                let spot = self.spot()?;
                self.need("on", "the line it lies on")?;
                Rule::On { spot, line: self.curve()? }
            }
            "in" => {
                self.take();
                Rule::InLine { lines: self.two()? }
            }
            "alongside" => Rule::Alongside { lines: self.two()? },
            "square" => Rule::Square { lines: self.two()? },
            "tangent" => Rule::Tangent { lines: self.two()? },
            "same" if self.has("size") => Rule::SameSize { lines: self.two()? },
            "same" => {
                self.take();
                Rule::Together { between: self.two()?.map(|of| Spot { which: Which::Centre, of }) }
            }
            "mirrored" => {
                let between = self.both()?;
                self.need("in", "the mirror line")?;
                Rule::Mirrored { between, line: self.curve()? }
            }
            "fixed" => {
                let spot = self.spot()?;
                self.need("at", "where it stays")?;
                Rule::Fixed { spot, at: self.pair("where it stays")? }
            }
            "length" => Rule::Length { of: self.of_curve()?, mm: self.number("its length")? },
            "distance" => {
                let spot = self.spot()?;
                if self.has("from") {
                    let line = self.curve()?;
                    return Ok(Rule::Off { spot, line, mm: self.number("how far it is")? });
                }
                self.need("and", "another place, or 'from' and a line,")?;
                let between = [spot, self.spot()?];
                Rule::Distance { between, mm: self.number("how far it is")? }
            }
            "across" => Rule::Across { between: self.both()?, mm: self.number("how far it is")? },
            "rise" => Rule::Rise { between: self.both()?, mm: self.number("how far it is")? },
            "radius" => Rule::Radius { of: self.of_curve()?, mm: self.number("its radius")? },
            "diameter" => Rule::Diameter { of: self.of_curve()?, mm: self.number("its diameter")? },
            "angle" => Rule::Angle { of: self.of_curve()?, degrees: self.number("its angle")? },
            _ => {
                self.need("of", "two lines")?;
                let a_back = self.has("back");
                let first = self.curve()?;
                self.need("and", "the other line")?;
                let back = [a_back, self.has("back")];
                let lines = [first, self.curve()?];
                Rule::Corner { lines, back, degrees: self.number("its angle")? }
            }
        })
    }
}
