//! Letters as outlines: set by the rules of the face that ships (kerning, accents), kept as the curves it has.

use std::sync::LazyLock;

use harfrust::font::Font;
use harfrust::font::glyph::outline::{DrawMemory, DrawOptions, PathSink};
use harfrust::{Buffer, GlyphId, ShapeOptions, ShaperFont, shape};

use crate::Flat;
use crate::span::{Span, cubic};

/// The face: Latin letters with their accents, figures and signs. See `fonts/LICENSE.txt`.
static FACE: LazyLock<Option<Font>> = LazyLock::new(|| Font::new(&include_bytes!("../fonts/letters.ttf")[..], 0));

/// The longest text, letters.
const LONGEST: usize = 200;
/// Outlines that turn by less go on smoothly: the face's points lie on whole units.
const SMOOTH: f64 = 8.0 * std::f64::consts::PI / 180.0;

/// The outlines of one letter, in units of the face.
#[derive(Default)]
struct Outlines {
    /// Each closed, as poles of cubics; of a straight piece the poles lie on it.
    done: Vec<Vec<Piece>>,
    open: Vec<Piece>,
    from: Flat,
    at: Flat,
}

#[derive(Clone, Copy)]
enum Piece {
    Line(Flat, Flat),
    Cubic([Flat; 4]),
}

impl Piece {
    /// The directions it begins and ends in.
    fn ways(&self) -> [Flat; 2] {
        match *self {
            Self::Line(a, b) => [b - a; 2],
            Self::Cubic([a, b, c, d]) => [if a == b { c - a } else { b - a }, if c == d { d - b } else { d - c }],
        }
    }

    fn spans(&self, place: &dyn Fn(Flat) -> Flat) -> Vec<Span> {
        match *self {
            Self::Line(a, b) => vec![Span::line(place(a), place(b))],
            Self::Cubic(poles) => cubic(poles.map(place)),
        }
    }
}

fn flat(x: f32, y: f32) -> Flat {
    Flat::new(f64::from(x), f64::from(y))
}

impl PathSink for Outlines {
    fn move_to(&mut self, x: f32, y: f32) {
        self.close();
        self.from = flat(x, y);
        self.at = self.from;
    }
    fn line_to(&mut self, x: f32, y: f32) {
        let to = flat(x, y);
        if to != self.at {
            self.open.push(Piece::Line(self.at, to));
        }
        self.at = to;
    }
    fn quad_to(&mut self, cx: f32, cy: f32, x: f32, y: f32) {
        let (by, to) = (flat(cx, cy), flat(x, y));
        let pole = |end: Flat| end + (by - end) * (2.0 / 3.0);
        self.open.push(Piece::Cubic([self.at, pole(self.at), pole(to), to]));
        self.at = to;
    }
    fn curve_to(&mut self, ax: f32, ay: f32, bx: f32, by: f32, x: f32, y: f32) {
        self.open.push(Piece::Cubic([self.at, flat(ax, ay), flat(bx, by), flat(x, y)]));
        self.at = flat(x, y);
    }
    fn close(&mut self) {
        let from = self.from;
        self.line_to(from.x as f32, from.y as f32);
        if !self.open.is_empty() {
            self.done.push(std::mem::take(&mut self.open));
        }
    }
}

/// A closed outline as smooth curves, from corner to corner.
fn smooth_curves(outline: &[Piece], place: &dyn Fn(Flat) -> Flat) -> Vec<Vec<Span>> {
    let n = outline.len();
    let corner = |k: usize| {
        let (before, after) = (outline[(k + n - 1) % n].ways()[1], outline[k].ways()[0]);
        before.angle_to(after).abs() > SMOOTH
    };
    let first = (0..n).find(|k| corner(*k));
    let mut curves: Vec<Vec<Span>> = Vec::new();
    for k in 0..n {
        let at = (first.unwrap_or(0) + k) % n;
        if curves.is_empty() || (first.is_some() && corner(at)) {
            curves.push(Vec::new());
        }
        if let Some(last) = curves.last_mut() {
            last.extend(outline[at].spans(place));
        }
    }
    curves
}

/// The curves of a line of letters.
pub(crate) fn lettered(text: &str, at: Flat, height: f64, turned: f64, middle: bool) -> Result<Vec<Vec<Span>>, String> {
    let letters = text.chars().count();
    if letters > LONGEST || text.trim().is_empty() {
        return Err(format!("it says {letters} letters; from 1 to {LONGEST} can be drawn"));
    }
    let face = FACE.as_ref().ok_or("the face that ships cannot be read")?;
    let (charmap, outlines) = (face.charmap(), face.outline_glyphs());
    if let Some(odd) = text.chars().find(|c| c.is_control() || charmap.map_unicode(*c).is_none()) {
        return Err(format!("the face that ships has no '{}'", odd.escape_default()));
    }
    let mut buffer = Buffer::new();
    buffer.push_str(text);
    buffer.guess_segment_properties();
    shape(&ShaperFont::new(face), &mut buffer, ShapeOptions::new()).map_err(|e| e.to_string())?;
    let capital = face.metrics().cap_height.map_or(700.0, |h| h.to_f64()).max(1.0);
    let scale = height / capital;
    let wide: i32 = buffer.glyph_positions().iter().map(|p| p.x_advance).sum();
    let way = Flat::from_angle(turned.to_radians());
    let mut pen = Flat::new(if middle { f64::from(-wide) * 0.5 } else { 0.0 }, 0.0);
    let mut curves = Vec::new();
    for (glyph, set) in buffer.glyph_infos().iter().zip(buffer.glyph_positions()) {
        let Some(glyph) = outlines.get(GlyphId::new(glyph.glyph_id)) else { continue };
        let mut drawn = Outlines::default();
        glyph.draw(&DrawOptions::default(), DrawMemory::Scratch, &mut drawn).map_err(|e| e.to_string())?;
        drawn.close();
        let from = pen + Flat::new(f64::from(set.x_offset), f64::from(set.y_offset));
        let place = |p: Flat| at + way.rotate((from + p) * scale);
        curves.extend(drawn.done.iter().flat_map(|outline| smooth_curves(outline, &place)));
        pen += Flat::new(f64::from(set.x_advance), f64::from(set.y_advance));
    }
    Ok(curves)
}
