//! What is still loose: how many ways a drawing can move without breaking a rule, and how its places can go.

use nimbet_kernel::{Cancelled, Progress};
use rustc_hash::{FxHashMap, FxHashSet};
use schemars::JsonSchema;
use serde::Serialize;

use super::element::Kind;
use super::settle::{Set, largest};
use super::system::System;
use crate::Flat;
use crate::catch::line_of;
use crate::drawing::Drawing;

/// What is loose.
#[derive(Clone, Debug, Default, PartialEq, Serialize, JsonSchema)]
pub struct Loose {
    /// How many ways the drawing can move: 0 when all is held.
    pub count: usize,
    /// The places that can go somewhere.
    pub ways: Vec<Way>,
}

/// A place that can go somewhere.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Way {
    /// Where it is, mm.
    pub at: [f64; 2],
    /// Which way it can go; nothing for any.
    pub along: Option<[f64; 2]>,
}

/// A slope less than this, of equations whose slopes are 1 together, is none.
const NOUGHT: f64 = 1e-8;
/// More places are not listed.
const MOST_WAYS: usize = 500;

/// Equations brought to steps: each has an unknown no earlier one has.
struct Steps {
    rows: Vec<Vec<(u32, f64)>>,
    pivots: Vec<u32>,
    row_of: FxHashMap<u32, usize>,
}

impl Steps {
    fn new() -> Self {
        Self { rows: Vec::new(), pivots: Vec::new(), row_of: FxHashMap::default() }
    }

    /// Takes an equation; says whether it follows from those before.
    fn take(&mut self, row: &[(u32, f64)]) -> bool {
        let length = row.iter().map(|(_, v)| v * v).sum::<f64>().sqrt();
        if length == 0.0 {
            return true;
        }
        let mut left: FxHashMap<u32, f64> = row.iter().map(|(u, v)| (*u, v / length)).collect();
        let mut due: std::collections::BTreeSet<usize> =
            left.keys().filter_map(|u| self.row_of.get(u).copied()).collect();
        while let Some(n) = due.pop_first() {
            let Some(by) = left.remove(&self.pivots[n]) else { continue };
            for (u, v) in self.rows[n].iter().filter(|(u, _)| *u != self.pivots[n]) {
                *left.entry(*u).or_default() -= by * v;
                due.extend(self.row_of.get(u).copied().filter(|m| *m > n));
            }
        }
        let mut rest: Vec<(u32, f64)> = left.into_iter().filter(|(_, v)| v.abs() > NOUGHT * 1e-3).collect();
        rest.sort_unstable_by(|a, b| b.1.abs().total_cmp(&a.1.abs()).then(a.0.cmp(&b.0)));
        let Some(&(pivot, value)) = rest.first().filter(|(_, v)| v.abs() > NOUGHT) else { return true };
        rest.iter_mut().for_each(|(_, v)| *v /= value);
        self.row_of.insert(pivot, self.rows.len());
        self.pivots.push(pivot);
        self.rows.push(rest);
        false
    }

    /// How all unknowns go when one that is free goes by 1.
    fn way(&self, free: u32) -> FxHashMap<u32, f64> {
        let mut way = FxHashMap::from_iter([(free, 1.0)]);
        for n in (0..self.rows.len()).rev() {
            let sum: f64 = self.rows[n]
                .iter()
                .filter(|(u, _)| *u != self.pivots[n])
                .filter_map(|(u, v)| Some(v * way.get(u)?))
                .sum();
            if sum != 0.0 {
                way.insert(self.pivots[n], -sum);
            }
        }
        way
    }
}

fn steps_of(system: &System<'_>, sets: &[Set], x: &[f64], leave_out: Option<usize>) -> Steps {
    let mut steps = Steps::new();
    for set in sets {
        for (rows, hold) in system.equations(set, x).iter().zip(&set.holds) {
            if leave_out == Some(*hold) {
                continue;
            }
            for jet in &rows.off {
                steps.take(&row(&rows.slots, &jet.d));
            }
        }
    }
    steps
}

fn row(slots: &[u32], d: &[f64]) -> Vec<(u32, f64)> {
    slots.iter().zip(d).filter(|(_, d)| **d != 0.0).map(|(u, d)| (*u, *d)).collect()
}

impl Drawing {
    /// What is loose; nothing where nothing is held.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn loose(&self, progress: &Progress) -> Result<Option<Loose>, Cancelled> {
        if self.holds.is_empty() {
            return Ok(None);
        }
        let system = System::new(self);
        let sets = system.sets(&system.x);
        let steps = steps_of(&system, &sets, &system.x, None);
        // Copies follow: what only they are written by is theirs to move, too.
        let free: Vec<u32> = (0..system.x.len() as u32)
            .filter(|u| system.kinds[*u as usize] != Kind::Still && !steps.row_of.contains_key(u))
            .collect();
        let mut spread: FxHashMap<u32, [f64; 3]> = FxHashMap::default();
        let places = self.place_unknowns(&system);
        for u in &free {
            progress.check()?;
            let way = steps.way(*u);
            for (x, y) in &places {
                let (a, b) = (way.get(x).copied().unwrap_or(0.0), way.get(y).copied().unwrap_or(0.0));
                if a != 0.0 || b != 0.0 {
                    let sum = spread.entry(*x).or_default();
                    *sum = [sum[0] + a * a, sum[1] + a * b, sum[2] + b * b];
                }
            }
        }
        let mut ways: Vec<Way> = Vec::new();
        for (x, y) in places.iter().take(MOST_WAYS) {
            let Some([xx, xy, yy]) = spread.get(x) else { continue };
            let at = [system.x[*x as usize], system.x[*y as usize]];
            let both = xx * yy - xy * xy > 1e-9 * (xx + yy).powi(2);
            let along = if xx >= yy { Flat::new(*xx, *xy) } else { Flat::new(*xy, *yy) };
            ways.push(Way { at, along: (!both).then(|| along.normalize_or_zero().to_array()) });
        }
        Ok(Some(Loose { count: free.len(), ways }))
    }

    /// The unknowns of places, each place once.
    fn place_unknowns(&self, system: &System<'_>) -> Vec<(u32, u32)> {
        let mut seen = FxHashSet::default();
        let mut all = Vec::new();
        for (n, line) in self.lines.iter().enumerate() {
            let own = system.unknowns(n);
            let params = line.draw.params();
            let mut k = 0;
            while k < own.len() {
                if let Kind::Place(_) = params[k].kind {
                    if seen.insert(own[k]) {
                        all.push((own[k], own[k + 1]));
                    }
                    k += 2;
                } else {
                    k += 1;
                }
            }
        }
        all
    }

    /// The holds that say already what another one says: it can be left out. Nothing when it says something of its own.
    pub(crate) fn said_by(&self, hold: usize, progress: &Progress) -> Result<Option<Vec<usize>>, Cancelled> {
        // What a part has carried down may lie elsewhere another time: then it says something.
        let still = |of: &String| self.lines.iter().any(|l| l.still && l.name == line_of(of));
        if self.holds[hold].rule.curves().iter().any(still) {
            return Ok(None);
        }
        let system = System::new(self);
        let sets = system.sets(&system.x);
        let Some(set) = sets.iter().find(|s| s.holds.contains(&hold)) else { return Ok(None) };
        let own = set.holds.iter().position(|h| *h == hold).unwrap_or_default();
        let mut others: Vec<usize> = (0..set.holds.len()).filter(|k| *k != own).collect();
        let part = |only: &[usize]| Set {
            holds: only.iter().map(|k| set.holds[*k]).collect(),
            branches: only.iter().map(|k| set.branches[*k]).collect(),
        };
        let follows = |only: &[usize], x: &[f64]| {
            let mut steps = steps_of(&system, &[part(only)], x, None);
            let rows = system.rows(hold, &set.branches[own], x);
            rows.off.iter().all(|jet| steps.take(&row(&rows.slots, &jet.d)))
        };
        if !follows(&others, &system.x) {
            return Ok(None);
        }
        // Shaken a little and settled without it, what the others say is still kept; what only looked so is not.
        let mut x = system.shaken(set, &system.x, 0.01);
        let rest = part(&others);
        let ease = system.ease(&|_| false);
        if system.walk(&rest, &mut x, &ease, progress)?.is_err() {
            return Ok(None);
        }
        let off: Vec<f64> = system.rows(hold, &set.branches[own], &x).off.iter().map(|j| j.v).collect();
        if largest(&off) > 1e3 * system.kept() {
            return Ok(None);
        }
        // Few of them are enough.
        let mut n = others.len();
        while n > 0 {
            n -= 1;
            progress.check()?;
            let without: Vec<usize> = others.iter().copied().filter(|k| *k != others[n]).collect();
            if follows(&without, &x) {
                others = without;
            }
        }
        Ok(Some(others.into_iter().map(|k| set.holds[k]).collect()))
    }
}
