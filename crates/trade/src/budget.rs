//! What a step may cost: told before it begins, refused where it would be too much, with what would fit.

use nimbet_kernel::{Aabb, Mesh};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::words::{Xyz, millimetres};
use crate::{Figures, Operation, TradeError};

/// The most triangles a step may make. A browser draws no more, and an arrangement of more does not fit into a task's memory.
pub const MOST_TRIANGLES: f64 = 8e6;

/// A part, as far as what a step costs hangs on it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Extent {
    /// Its triangles.
    pub triangles: f64,
    /// Its area, mm².
    pub area: f64,
    /// Its size, mm.
    pub size: Xyz,
}

impl Extent {
    /// That of a mesh.
    pub fn of(mesh: &Mesh) -> Self {
        let area = (0..mesh.triangles().len()).map(|t| mesh.area_vector(t).length() * 0.5).sum();
        let size = Aabb::of(mesh.points().iter().copied()).size().to_array();
        Self { triangles: mesh.triangles().len() as f64, area, size }
    }

    /// Its diagonal, mm.
    pub fn diagonal(&self) -> f64 {
        self.size.iter().map(|x| x * x).sum::<f64>().sqrt()
    }

    /// Triangles of its surface in squares of a step of its own.
    pub(crate) fn squares(&self, step: f64) -> f64 {
        self.area / (step * step) * 3.0
    }
}

impl From<&Figures> for Extent {
    fn from(figures: &Figures) -> Self {
        Self { triangles: figures.triangles as f64, area: figures.area, size: figures.size }
    }
}

/// What a tool does with each triangle, for what it costs.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Effort {
    /// Passes over them.
    Passing,
    /// Looks for what is near each.
    Searching,
    /// Moves the surface and puts it together again.
    Moving,
    /// Arranges them exactly.
    Arranging,
    /// Tries several of these one after the other.
    Planning,
    /// Draws them on a grid.
    Sampling,
}

impl Effort {
    /// Microseconds and bytes for a triangle, coming in or made; measured with what is looked at afterwards on two cores, see
    /// docs/benchmarks.md.
    const fn each(self) -> (f64, f64) {
        match self {
            Self::Passing => (8.0, 350.0),
            Self::Searching => (10.0, 400.0),
            Self::Moving => (60.0, 550.0),
            Self::Arranging => (25.0, 550.0),
            Self::Planning => (30.0, 450.0),
            Self::Sampling => (60.0, 600.0),
        }
    }
}

/// What a step is expected to take, within a factor of a few; known before it begins, from figures of the parts alone.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Cost {
    /// Triangles of what it makes.
    pub triangles: f64,
    /// Memory, bytes.
    pub bytes: f64,
    /// Seconds, with looking at what came out.
    pub seconds: f64,
}

impl Cost {
    /// That of a kind of work on so many triangles that makes so many.
    pub fn of(effort: Effort, before: f64, after: f64) -> Self {
        let (micros, bytes) = effort.each();
        let all = before + after;
        Self { triangles: after, bytes: bytes * all, seconds: micros * 1e-6 * all }
    }
}

/// Refuses a step that would make too many triangles, or take more memory than there is for a task, bytes; with what would fit.
///
/// # Errors
/// [`TradeError::Refused`].
pub fn refuse_costly(step: &Operation, parts: &[Extent], memory: Option<f64>) -> Result<(), TradeError> {
    let cost = step.cost(parts);
    let why = match memory {
        _ if cost.triangles > MOST_TRIANGLES => too_many(cost.triangles),
        Some(most) if cost.bytes > most => {
            let gigabytes = |b: f64| format!("{:.1} GB", b / 1e9);
            format!("this would take about {} of memory; a task may have {}", gigabytes(cost.bytes), gigabytes(most))
        }
        _ => return Ok(()),
    };
    let fits =
        |cost: Cost| cost.triangles <= MOST_TRIANGLES / ROOM && memory.is_none_or(|most| cost.bytes <= most / ROOM);
    let coarser = FINENESS.iter().find_map(|name| {
        let mut other = serde_json::to_value(step).ok()?;
        let from = other[*name].as_f64()?;
        let (length, cost) = plain_lengths(from).find_map(|length| {
            other[*name] = length.into();
            let cost = serde_json::from_value::<Operation>(other.clone()).ok()?.cost(parts);
            fits(cost).then_some((length, cost))
        })?;
        Some(format!("; a {name} of {} makes {}", millimetres(length), about(cost.triangles)))
    });
    Err(TradeError::refused(format!("{why}{}", coarser.unwrap_or_default()), vec![]))
}

/// Parameters that say how fine something is made, mm.
const FINENESS: [&str; 3] = ["chord", "resolution", "sampled"];
/// What is offered takes no more than this part of the limit: the rest of the part wants room as well.
const ROOM: f64 = 4.0;

/// Refuses a chord so fine, or a distance so large, that arcs would take too many triangles; `expected` tells how many a chord
/// takes.
pub(crate) fn refuse_fine_chord(chord: f64, expected: &dyn Fn(f64) -> f64) -> Result<(), TradeError> {
    let made = expected(chord);
    if made <= MOST_TRIANGLES {
        return Ok(());
    }
    Err(TradeError::refused(format!("{}; {}", too_many(made), what_fits(chord, expected)), vec![]))
}

/// Refuses so many of something that they would be too many triangles together.
pub(crate) fn refuse_many(made: f64) -> Result<(), TradeError> {
    if made <= MOST_TRIANGLES { Ok(()) } else { Err(TradeError::refused(too_many(made), vec![])) }
}

/// The segments of a circle whose chords stay within a tolerance of it.
pub(crate) fn around(radius: f64, chord: f64) -> f64 {
    /// Finer than this the cosine is one.
    const FINEST: f64 = 1e-7;
    if radius <= 0.0 {
        return 0.0;
    }
    std::f64::consts::PI / (1.0 - (chord / radius).min(1.0)).acos().max(FINEST)
}

fn too_many(made: f64) -> String {
    format!("this would make about {} triangles; the limit is {}", about(made), about(MOST_TRIANGLES))
}

/// The finest plain length that leaves room for what else there is.
fn what_fits(from: f64, expected: &dyn Fn(f64) -> f64) -> String {
    match plain_lengths(from).find(|length| expected(*length) <= MOST_TRIANGLES / ROOM) {
        Some(fits) => format!("a chord of {} makes {}", millimetres(fits), about(expected(fits))),
        None => "no chord would be coarse enough; smaller lengths or fewer of them would do".to_owned(),
    }
}

/// 1, 2, 5, 10 … above a length.
fn plain_lengths(from: f64) -> impl Iterator<Item = f64> {
    let begin = from.max(1e-15).log10().floor() as i32;
    let plain = (begin..begin + 24).flat_map(|e| [1.0, 2.0, 5.0].map(|d| d * 10f64.powi(e)));
    plain.filter(move |length| *length > from)
}

/// A large number in two digits: `12 million`, `340 thousand`.
fn about(n: f64) -> String {
    let scaled = |by: f64, word: &str| {
        let x = n / by;
        let digits = if x < 10.0 { format!("{x:.1}") } else { format!("{x:.0}") };
        format!("{} {word}", digits.trim_end_matches(".0"))
    };
    match n {
        n if n < 1e3 => format!("{n:.0}"),
        n if n < 1e6 => scaled(1e3, "thousand"),
        n if n < 1e9 => scaled(1e6, "million"),
        n if n < 1e12 => scaled(1e9, "thousand million"),
        _ => "more than a million million".into(),
    }
}
