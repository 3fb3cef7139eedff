//! The list of lines: a drawing in plain words, one row a line, written and read again as it was.
//!
//! ```text
//! a  frame  at 0, 0  size 60 x 40  radius 4
//! b  circle  at 20, 10  diameter 6.6
//! c  chain  from 0, 0  to 20, 0  along 10 at 90  to 0, 10 tangent  closed
//! ```
//! Where something begins is said `from`, where it goes `to`, `by` (from where it is) or `along` (a length, in a direction).
//! What was carried down from a part says `carried` before its kind. What is held follows as rows of its own.

mod row;
mod rules;

use crate::Flat;
use crate::drawing::{Drawing, Growth, Leg, Line, MOST_LINES, Shape};
use crate::rules::{Hold, MOST_HOLDS};

pub use row::row;
pub use rules::{read_rule, rule_row, spot};

/// Why a list of lines is not understood.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("row {row}: {why}")]
pub struct TextError {
    /// Which row, from 1.
    pub row: usize,
    /// What is wrong with it.
    pub why: String,
}

/// Said of what begins and goes nowhere.
const NOWHERE: &str = "where it goes is missing: 'to', 'by' or 'along'";

/// The longest list that is read, bytes.
pub const LONGEST_LIST: usize = 1 << 20;

/// Writes a drawing as a list.
pub fn written(drawing: &Drawing) -> String {
    let carried = |line: &Line| if line.still { "carried  " } else { "" };
    let lines = drawing.lines.iter().map(|line| format!("{}  {}{}\n", line.name, carried(line), row(&line.draw)));
    lines.chain(drawing.holds.iter().map(|hold| rules::hold_row(hold) + "\n")).collect()
}

/// A row up to its remark: what stands in quotation marks is none.
fn without_remark(row: &str) -> &str {
    let mut quoted = false;
    let remark = row.char_indices().find(|(_, c)| {
        quoted ^= *c == '"';
        *c == '#' && !quoted
    });
    &row[..remark.map_or(row.len(), |(at, _)| at)]
}

/// A row of the list.
pub enum Row {
    /// What is drawn.
    Line(Line),
    /// What is held.
    Hold(Hold),
}

/// Reads a list. Empty rows and what follows a `#` count for nothing.
///
/// # Errors
/// [`TextError`] for the first row that is not understood.
pub fn read(text: &str) -> Result<Drawing, TextError> {
    if text.len() > LONGEST_LIST {
        return Err(TextError { row: 1, why: format!("a list is at most {LONGEST_LIST} bytes long") });
    }
    let mut drawing = Drawing::default();
    for (n, row) in text.lines().enumerate() {
        let row = without_remark(row);
        if row.trim().is_empty() {
            continue;
        }
        let fault = |why: String| TextError { row: n + 1, why };
        match read_row(row).map_err(fault)? {
            Row::Line(_) if drawing.lines.len() == MOST_LINES => {
                return Err(fault(format!("a profile has at most {MOST_LINES} lines")));
            }
            Row::Hold(_) if drawing.holds.len() == MOST_HOLDS => {
                return Err(fault(format!("a profile has at most {MOST_HOLDS} figures and rules")));
            }
            Row::Line(line) => drawing.lines.push(line),
            Row::Hold(hold) => drawing.holds.push(hold),
        }
    }
    Ok(drawing)
}

/// Reads one row: a name, then what is drawn or held.
///
/// # Errors
/// What is not understood, in words.
pub fn read_row(row: &str) -> Result<Row, String> {
    let mut words = Words { rest: row };
    let name = words.name()?;
    let row = match words.rule() {
        Some(rule) => {
            let rule = rule?;
            let aside = if words.has("aside") { Some(words.pair("where its figure is written")?) } else { None };
            Row::Hold(Hold { name, rule, aside })
        }
        None => {
            let still = words.has("carried");
            Row::Line(Line { name, draw: words.shape()?, still })
        }
    };
    match words.peek() {
        "" => Ok(row),
        more => Err(format!("'{more}' is one word too many")),
    }
}

/// What is still to be read of a row.
struct Words<'a> {
    rest: &'a str,
}

/// The kinds of lines, for whoever wrote another.
const KINDS: &str =
    "line, chain, arc, circle, ellipse, frame, slot, polygon, curve, bezier, letters, spiral, row, ring or mirrored";

impl<'a> Words<'a> {
    /// The next word, without taking it: up to a blank or a comma.
    fn peek(&self) -> &'a str {
        let rest = self.rest.trim_start();
        match rest.find(|c: char| c.is_whitespace() || c == ',') {
            Some(0) => &rest[..1],
            Some(end) => &rest[..end],
            None => rest,
        }
    }

    fn take(&mut self) -> &'a str {
        let word = self.peek();
        self.rest = &self.rest.trim_start()[word.len()..];
        word
    }

    /// Takes a word if it comes next.
    fn has(&mut self, word: &str) -> bool {
        let here = self.peek().eq_ignore_ascii_case(word);
        if here {
            self.take();
        }
        here
    }

    fn name(&mut self) -> Result<String, String> {
        let word = self.take();
        if word.is_empty() || !word.chars().all(|c| c.is_ascii_alphanumeric()) {
            return Err(format!("'{word}' is no name; a name is letters and digits"));
        }
        Ok(word.to_owned())
    }

    /// Names with commas between.
    fn names(&mut self) -> Result<Vec<String>, String> {
        self.need("of", "the lines it copies")?;
        let mut names = vec![self.name()?];
        while self.has(",") {
            names.push(self.name()?);
        }
        Ok(names)
    }

    fn need(&mut self, word: &str, what: &str) -> Result<(), String> {
        if self.has(word) {
            return Ok(());
        }
        let next = self.peek();
        let next = if next.is_empty() { "the row ends".to_owned() } else { format!("'{next}' stands there") };
        Err(format!("'{word}' and {what} belong here; {next}"))
    }

    /// A number, as far as it goes: of `40x20` the 40.
    fn number(&mut self, what: &str) -> Result<f64, String> {
        let word = self.peek();
        let end = word
            .char_indices()
            .find(|(n, c)| {
                let exponent = matches!(c, 'e' | 'E') && *n > 0;
                let sign = matches!(c, '-' | '+') && (*n == 0 || word[..*n].ends_with(['e', 'E']));
                !(c.is_ascii_digit() || *c == '.' || exponent || sign)
            })
            .map_or(word.len(), |(n, _)| n);
        let number = word[..end].parse::<f64>().ok().filter(|x| x.is_finite());
        let number = number.ok_or_else(|| match word {
            "" => format!("{what} is missing"),
            _ => format!("{what} is a number; '{word}' stands there"),
        })?;
        self.rest = &self.rest.trim_start()[end..];
        Ok(number)
    }

    fn whole(&mut self, what: &str) -> Result<u32, String> {
        let number = self.number(what)?;
        if number.fract() == 0.0 && (0.0..=f64::from(u32::MAX)).contains(&number) {
            return Ok(number as u32);
        }
        Err(format!("{what} is a whole number, not {number}"))
    }

    fn pair(&mut self, what: &str) -> Result<[f64; 2], String> {
        let x = self.number(what)?;
        self.has(",");
        Ok([x, self.number(&format!("the second figure of {what}"))?])
    }

    fn size(&mut self) -> Result<[f64; 2], String> {
        let width = self.number("its width")?;
        let rest = self.rest.trim_start();
        let by = rest.strip_prefix(['x', 'X', '×']).ok_or("its size is a width, an x and a height: 40 x 20")?;
        self.rest = by;
        Ok([width, self.number("its height")?])
    }

    /// What stands between quotation marks; one within is written twice.
    fn quoted(&mut self) -> Result<String, String> {
        let rest =
            self.rest.trim_start().strip_prefix('"').ok_or("what is written stands in quotation marks: \"No 7\"")?;
        let mut said = String::new();
        let mut left = rest.chars().peekable();
        while let Some(c) = left.next() {
            if c != '"' {
                said.push(c);
            } else if left.next_if_eq(&'"').is_some() {
                said.push('"');
            } else {
                let read = rest.len() - left.map(char::len_utf8).sum::<usize>();
                self.rest = &rest[read..];
                return Ok(said);
            }
        }
        Err("the second quotation mark is missing".into())
    }

    /// `from` and a place.
    fn begins(&mut self) -> Result<[f64; 2], String> {
        self.need("from", "where it begins")?;
        self.pair("where it begins")
    }

    fn centre(&mut self) -> Result<[f64; 2], String> {
        self.need("at", "its middle")?;
        self.pair("its middle")
    }

    fn figure(&mut self, word: &str) -> Result<f64, String> {
        self.need(word, "its figure")?;
        self.number(&format!("its {word}"))
    }

    fn figure_or(&mut self, word: &str, or: f64) -> Result<f64, String> {
        Ok(self.optional(word)?.unwrap_or(or))
    }

    fn optional(&mut self, word: &str) -> Result<Option<f64>, String> {
        if self.has(word) { self.number(&format!("its {word}")).map(Some) } else { Ok(None) }
    }

    /// Where it goes from a place, having gone `along` so far.
    fn goes(&mut self, from: [f64; 2], along: Flat) -> Result<Option<[f64; 2]>, String> {
        let here = Flat::from(from);
        if self.has("to") {
            return self.pair("where it goes").map(Some);
        }
        if self.has("by") {
            return self.pair("how far it goes").map(|by| Some((here + Flat::from(by)).to_array()));
        }
        if self.has("along") {
            let length = self.number("how far it goes")?;
            let way = self.optional("at")?.map_or(along, direction);
            return Ok(Some((here + way * length).to_array()));
        }
        Ok(None)
    }

    fn chain(&mut self) -> Result<Shape, String> {
        let from = self.begins()?;
        let (mut at, mut along, mut legs) = (from, Flat::X, Vec::new());
        while let Some(to) = self.goes(at, along)? {
            let chord = Flat::from(to) - Flat::from(at);
            let bulge = if self.has("bulge") {
                self.number("its bulge")?
            } else if self.has("tangent") {
                (along.angle_to(chord) * 0.5).tan()
            } else if self.has("via") {
                let via = Flat::from(self.pair("a place on its way")?);
                let (a, b) = (via - Flat::from(at), Flat::from(to) - via);
                (a.perp_dot(b).atan2(a.dot(b)) * 0.5).tan()
            } else {
                0.0
            };
            // A chord leans by half of what the leg turns.
            along = Flat::from_angle(2.0 * bulge.atan()).rotate(chord.normalize_or(along));
            legs.push(Leg { to, bulge });
            at = to;
        }
        Ok(Shape::Chain { from, legs, closed: self.has("closed") })
    }

    fn shape(&mut self) -> Result<Shape, String> {
        let kind = self.take().to_ascii_lowercase();
        Ok(match kind.as_str() {
            "line" => {
                let from = self.begins()?;
                Shape::Line { from, to: self.goes(from, Flat::X)?.ok_or(NOWHERE)? }
            }
            "chain" => self.chain()?,
            "arc" => {
                let from = self.begins()?;
                self.need("via", "a place on its way")?;
                let via = self.pair("a place on its way")?;
                Shape::Arc { from, via, to: self.goes(from, Flat::X)?.ok_or(NOWHERE)? }
            }
            "circle" => {
                let centre = self.centre()?;
                let radius = self.optional("radius")?;
                let diameter = radius.map_or_else(|| self.figure("diameter"), |r| Ok(2.0 * r))?;
                Shape::Circle { centre, diameter }
            }
            "ellipse" => {
                let centre = self.centre()?;
                self.need("size", "its width x height")?;
                let size = self.size()?;
                let turned = self.figure_or("turned", 0.0)?;
                let stretch = match self.optional("stretch")? {
                    Some(from) => Some([from, self.figure("to")?]),
                    None => None,
                };
                Shape::Ellipse { centre, size, turned, stretch }
            }
            "frame" => {
                let centre = self.centre()?;
                self.need("size", "its width x height")?;
                let size = self.size()?;
                let radius = self.figure_or("radius", 0.0)?;
                Shape::Frame { centre, size, radius, turned: self.figure_or("turned", 0.0)? }
            }
            "slot" => {
                let from = self.begins()?;
                let to = self.goes(from, Flat::X)?.ok_or(NOWHERE)?;
                Shape::Slot { from, to, width: self.figure("width")? }
            }
            "polygon" => {
                let centre = self.centre()?;
                let diameter = self.figure("diameter")?;
                self.need("sides", "how many it has")?;
                let sides = self.whole("how many sides it has")?;
                Shape::Polygon { centre, diameter, sides, turned: self.figure_or("turned", 0.0)? }
            }
            "curve" | "bezier" | "letters" | "spiral" => self.free(&kind)?,
            "row" | "ring" | "mirrored" => self.copies(&kind)?,
            "" => return Err(format!("what is drawn is missing: {KINDS}")),
            other => {
                return Err(format!(
                    "'{other}' is nothing that can be drawn or held; {KINDS} can be drawn, {} held",
                    rules::RULES
                ));
            }
        })
    }

    /// A curve, letters or a spiral.
    fn free(&mut self, kind: &str) -> Result<Shape, String> {
        Ok(match kind {
            "curve" => {
                let from = self.begins()?;
                let mut points = vec![from];
                while let Some(next) = self.goes(points[points.len() - 1], Flat::X)? {
                    points.push(next);
                }
                let (begin, end) = (self.optional("begin")?, self.optional("end")?);
                Shape::Curve { points, closed: self.has("closed"), begin, end }
            }
            "bezier" => {
                let from = self.begins()?;
                let mut legs = Vec::new();
                while self.has("poles") {
                    let first = self.pair("its first pole")?;
                    self.need("and", "its second pole")?;
                    let second = self.pair("its second pole")?;
                    self.need("to", "where it goes")?;
                    legs.push([first, second, self.pair("where it goes")?]);
                }
                Shape::Bezier { from, legs }
            }
            "letters" => {
                let text = self.quoted()?;
                let at = self.centre()?;
                let height = self.figure("height")?;
                let turned = self.figure_or("turned", 0.0)?;
                Shape::Letters { text, at, height, turned, middle: self.has("middle") }
            }
            _ => {
                let centre = self.centre()?;
                let radius = self.figure("radius")?;
                let grows = match self.optional("factor")? {
                    Some(by) => Growth::Factor(by),
                    None => Growth::Pitch(self.figure("pitch")?),
                };
                let turns = self.figure("turns")?;
                Shape::Spiral { centre, radius, grows, turns, turned: self.figure_or("turned", 0.0)? }
            }
        })
    }

    /// Copies of lines: a row, a ring, or mirrored.
    fn copies(&mut self, kind: &str) -> Result<Shape, String> {
        let of = self.names()?;
        Ok(match kind {
            "row" => {
                self.need("by", "how far apart they are")?;
                let step = self.pair("how far apart they are")?;
                self.need("count", "how many there are")?;
                Shape::Row { of, step, count: self.whole("how many there are")? }
            }
            "ring" => {
                self.need("about", "the middle of the ring")?;
                let centre = self.pair("the middle of the ring")?;
                self.need("count", "how many there are")?;
                let count = self.whole("how many there are")?;
                Shape::Ring { of, centre, count, angle: self.optional("angle")? }
            }
            _ => {
                let from = self.begins()?;
                Shape::Mirrored { of, from, to: self.goes(from, Flat::X)?.ok_or(NOWHERE)? }
            }
        })
    }
}

/// A direction by its angle, degrees; square ones exactly.
pub(crate) fn direction(angle: f64) -> Flat {
    let quarter = angle.rem_euclid(360.0) / 90.0;
    match quarter {
        0.0 => Flat::X,
        1.0 => Flat::Y,
        2.0 => -Flat::X,
        3.0 => -Flat::Y,
        _ => Flat::from_angle(angle.to_radians()),
    }
}
