//! Whether two threads go together: measured on both parts, then one screwed into the other.
//!
//! A thread is the same along its screw line, so its profile is measured there: the radius at each phase of the pitch, all round
//! and over some turns, the tightest counting. From both follow the play and the phase at which one runs in the other. Then the
//! parts as they are, heads and shoulders with them, are turned into each other step by step, and each step is looked at for
//! triangles that cross, exactly.

use std::f64::consts::TAU;

use nimbet_kernel::crossings::crossing_any;
use nimbet_kernel::{Mesh, Point, Progress};
use rayon::prelude::*;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::lines::Lines;
use super::marks::ThreadMark;
use super::thread::Gender;
use crate::TradeError;
use crate::words::{Xyz, figure, millimetres, xyz};

/// What comes of screwing one part into another. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FitReport {
    /// Whether they go together.
    pub fits: bool,
    /// What was found, in plain words.
    pub told: Vec<String>,
    /// How far one can be pushed to and fro along the axis in the other; absent where they do not go together.
    pub axial_play: Option<f64>,
    /// How far the surfaces stand off each other all round.
    pub radial_play: Option<f64>,
    /// Full turns that engage when it is screwed in as far as it goes.
    pub turns: Option<f64>,
    /// Where on the internal part something stops it or is in the way.
    pub stops_at: Option<Xyz>,
}

/// Phases of a pitch a profile is measured at.
const PHASES: usize = 128;
/// Directions it is measured in; not a share of the segments of a turn.
const ROUND: usize = 37;
/// Steps of a turn at which the parts are looked at.
const STEPS: f64 = 4.0;
/// More steps than this are taken in larger ones.
const MOST_STEPS: f64 = 80.0;

/// Screws the part with an external thread into the one with an internal thread.
///
/// # Errors
/// [`TradeError`] where a thread is not there to be measured, or somebody cancels.
pub fn fit(
    (bore, internal): (&Mesh, &ThreadMark),
    (pin, external): (&Mesh, &ThreadMark),
    progress: &Progress,
) -> Result<FitReport, TradeError> {
    if internal.gender != Gender::Internal || external.gender != Gender::External {
        return Err(TradeError::refused("a fit needs a thread in a bore and one on a pin", vec![]));
    }
    let (a, b) = (internal.thread.form()?, external.thread.form()?);
    let told = differences(internal, external, [a.pitch, b.pitch]);
    let differ = !told.is_empty();
    let mut report = FitReport { fits: false, told, axial_play: None, radial_play: None, turns: None, stops_at: None };
    if differ {
        return Ok(report);
    }
    let sign = if internal.thread.left { -1.0 } else { 1.0 };
    progress.report(0.0, "measuring both threads")?;
    let inner = profile(bore, internal, a.lead * sign, a.pitch)?;
    let outer = profile(pin, external, b.lead * sign, b.pitch)?;
    // Looked at from the other end a screw line runs the other way round, and is the same.
    let gap = |shift: usize| -> f64 {
        (0..PHASES).map(|k| inner[k] - outer[(shift + PHASES - k) % PHASES]).fold(f64::INFINITY, f64::min)
    };
    let gaps: Vec<f64> = (0..PHASES).map(gap).collect();
    let (best, widest) =
        gaps.iter().enumerate().fold((0, f64::NEG_INFINITY), |m, (n, g)| if *g > m.1 { (n, *g) } else { m });
    // On even ground the middle of it.
    let free = |from: usize, step: isize| -> usize {
        (1..PHASES)
            .take_while(|k| gaps[(from as isize + step * *k as isize).rem_euclid(PHASES as isize) as usize] >= 0.0)
            .count()
    };
    let width = a.pitch / PHASES as f64;
    if widest < 0.0 {
        report.told.push(format!(
            "they do not go together: the threads overlap by {} wherever the pin is",
            millimetres(-widest)
        ));
        return Ok(report);
    }
    let (up, down) = (free(best, 1), free(best, -1));
    report.axial_play = Some((up + down) as f64 * width);
    report.radial_play = Some(widest);
    let middle = (best as f64 + (up as f64 - down as f64) * 0.5) * width;
    let (turns, stops_at) = screwed((bore, internal), (pin, external), middle, [a.lead * sign, a.pitch], progress)?;
    report.turns = Some(turns);
    report.stops_at = stops_at.map(xyz);
    report.fits = turns >= 1.0;
    let play = |x: f64| if x < 1e-3 { "less than 0.001 mm".to_owned() } else { millimetres(x) };
    report.told.push(match report.fits {
        true => format!(
            "it screws in for {} full turns, with {} of play round it and {} to and fro",
            figure((turns * 10.0).floor() / 10.0),
            play(widest),
            play((up + down) as f64 * width)
        ),
        false => "something is in the way before a full turn engages".into(),
    });
    if report.fits && stops_at.is_some() {
        report.told.push("there it comes to a stop: a shoulder or the bottom meets".into());
    }
    Ok(report)
}

/// In what two threads differ that never go together.
fn differences(internal: &ThreadMark, external: &ThreadMark, [bore, pin]: [f64; 2]) -> Vec<String> {
    let hand = |m: &ThreadMark| if m.thread.left { "left" } else { "right" };
    let mut told = Vec::new();
    if internal.thread.left != external.thread.left {
        told.push(format!("the bore's thread is {}-handed, the pin's {}-handed", hand(internal), hand(external)));
    }
    if (bore - pin).abs() > 1e-6 {
        told.push(format!("the pitches differ: {} in the bore, {} on the pin", millimetres(bore), millimetres(pin)));
    }
    if internal.thread.starts != external.thread.starts {
        told.push(format!(
            "the starts differ: {} in the bore, {} on the pin",
            internal.thread.starts, external.thread.starts
        ));
    }
    told
}

/// The radius at each phase of the pitch: the least of a bore, the greatest of a pin.
fn profile(mesh: &Mesh, mark: &ThreadMark, lead: f64, pitch: f64) -> Result<Vec<f64>, TradeError> {
    let lines = Lines::new(mesh);
    let (at, way) = (Point::from_array(mark.at), Point::from_array(mark.way));
    let (u, v) = directions(way);
    // The middle of the thread, away from lead-ins and run-outs.
    let turns = ((mark.length / pitch * 0.5).floor() as usize).clamp(1, 3);
    let begin = (mark.length - turns as f64 * pitch) * 0.5;
    let bore = mark.gender == Gender::Internal;
    let most = mark.radius + pitch * 1.5;
    let worst = if bore { f64::min } else { f64::max };
    let all: Vec<Option<f64>> = (0..PHASES)
        .into_par_iter()
        .map(|phase| {
            let mut held: Option<f64> = None;
            for k in 0..ROUND {
                let share = (k as f64 + 0.37) / ROUND as f64;
                let (sin, cos) = (share * TAU).sin_cos();
                let out = u * cos + v * sin;
                for turn in 0..turns {
                    let z = (phase as f64 / PHASES as f64 * pitch + lead * share - begin).rem_euclid(pitch)
                        + begin
                        + turn as f64 * pitch;
                    let from = at + way * z;
                    let r = if bore {
                        lines.clear(from, out, most)
                    } else {
                        lines.clear(from + out * most, -out, most).map(|d| most - d)
                    };
                    if let Some(r) = r {
                        held = Some(held.map_or(r, |h| worst(h, r)));
                    }
                }
            }
            held
        })
        .collect();
    let gone = || TradeError::NeedsNewPick { what: format!("the thread {}", mark.name), place: at };
    all.into_iter().collect::<Option<Vec<f64>>>().ok_or_else(gone)
}

/// Two directions square to an axis, the same for the same axis; with it they make a right-handed frame.
fn directions(way: Point) -> (Point, Point) {
    way.any_orthonormal_pair()
}

/// Turns the pin in until something is in the way: full turns engaged, and where it stops.
fn screwed(
    (bore, internal): (&Mesh, &ThreadMark),
    (pin, external): (&Mesh, &ThreadMark),
    phase: f64,
    [lead, pitch]: [f64; 2],
    progress: &Progress,
) -> Result<(f64, Option<Point>), TradeError> {
    let (at, way) = (Point::from_array(internal.at), Point::from_array(internal.way));
    let (from, back) = (Point::from_array(external.at), Point::from_array(external.way));
    let (u, v) = directions(way);
    let (s, t) = directions(back);
    let first = bore.points().len() as u32;
    let triangles: Vec<[u32; 3]> =
        bore.triangles().iter().copied().chain(pin.triangles().iter().map(|t| t.map(|p| p + first))).collect();
    let faces = bore.face_of().iter().chain(pin.face_of()).copied().collect::<Vec<_>>();
    // Only the pin's triangles near its thread can cross first, but heads and shoulders stop it: all are looked at.
    let some: Vec<u32> = (bore.triangles().len() as u32..triangles.len() as u32).collect();
    // The pin's own coordinates: along its axis from its free end, and round it. Turned end for end into the bore, what was at
    // turn θ of the pin comes to the turn −θ of the bore, less how far it is screwed.
    let place = |p: Point, deep: f64| {
        let off = p - from;
        let (x, y, z) = (off.dot(s), off.dot(t), off.dot(back));
        let turn = TAU * (deep - phase) / lead;
        let (sin, cos) = turn.sin_cos();
        let (x, y) = (x, -y);
        at + way * (deep - z) + u * (x * cos - y * sin) + v * (x * sin + y * cos)
    };
    let stop = |deep: f64| -> Result<Option<Point>, TradeError> {
        let points = bore.points().iter().copied().chain(pin.points().iter().map(|p| place(*p, deep))).collect();
        let both = Mesh::new(points, triangles.clone(), faces.clone())?;
        let crossing = crossing_any(&both, &some, progress)?;
        Ok(crossing.first().map(|(t, _)| both.corners(*t as usize).iter().sum::<Point>() / 3.0))
    };
    let engaged = |deep: f64| {
        deep.min(internal.length).min(external.length).min(internal.length + external.length - deep).max(0.0) / pitch
    };
    // Through a bore that is open at both ends until the whole pin is in it.
    let most = internal.length.max(external.length).min(internal.length + external.length);
    let step = (lead.abs() / STEPS).max(most / MOST_STEPS);
    let mut deep: f64 = 0.0;
    while deep < most {
        let next = (deep + step).min(most);
        progress.report((next / most).min(0.99), "screwing the pin in")?;
        if let Some(place) = stop(next)? {
            // Between the last step and this one, to a hundredth of a turn.
            let (mut clear, mut met, mut at) = (deep, next, place);
            while met - clear > lead.abs() * 0.01 {
                let middle = (clear + met) * 0.5;
                match stop(middle)? {
                    Some(place) => (met, at) = (middle, place),
                    None => clear = middle,
                }
            }
            return Ok((engaged(clear), Some(at)));
        }
        deep = next;
    }
    Ok((engaged(deep.min(internal.length.min(external.length).max(deep))), None))
}
