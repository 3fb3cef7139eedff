//! Moves a drawing as little as possible until its rules are kept: damped Newton steps of least length (Levenberg 1944,
//! Marquardt 1963), along a path on which what is off shrinks evenly, so that no line jumps to another place that would do, too.

use nimbet_kernel::sparse::Factor;
use nimbet_kernel::union_find::UnionFind;
use nimbet_kernel::{Cancelled, Point, Progress};

use super::element::Kind;
use super::residual::Branch;
use super::system::{Rows, System};
use crate::Flat;
use crate::drawing::Drawing;

/// A set of figures and rules that cannot all be kept as the drawing lies, and none of which is idle.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{} cannot all be held as the lines lie", .holds.join(", "))]
pub struct Quarrel {
    /// Their names.
    pub holds: Vec<String>,
}

/// Why a drawing cannot be settled.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum SettleError {
    /// Its rules quarrel.
    #[error(transparent)]
    Quarrel(#[from] Quarrel),
    /// Somebody asked to stop.
    #[error(transparent)]
    Cancelled(#[from] Cancelled),
}

/// What rules may be off by, mm, for a drawing up to a metre across.
pub const KEPT: f64 = 1e-9;
/// Newton steps are tried until so little is off, mm.
const FINE: f64 = 1e-12;
/// Figures are rounded to this where they may be, mm.
const TIDY: f64 = 1e-10;
/// How many Newton steps one stage of the path may take.
const STEPS: usize = 40;
/// The path is cut into at most so many stages when steps fail.
const SHORTEST: f64 = 1.0 / 512.0;
/// How much more those move that are not held by the hand.
const HAND: f64 = 1e-4;

/// Holds that have to do with each other, and how they are meant.
pub struct Set {
    pub holds: Vec<usize>,
    pub branches: Vec<Branch>,
}

/// Where a walk ended that did not arrive.
pub struct Stuck;

/// What moves easily: the share of each unknown.
pub type Ease = Vec<f64>;

impl System<'_> {
    /// What its rules may be off by, mm.
    pub fn kept(&self) -> f64 {
        KEPT * (self.extent * 1e-3).max(1.0)
    }

    /// How easily unknowns move when these are in the hand.
    pub fn ease(&self, held: &dyn Fn(u32) -> bool) -> Ease {
        let of = |u: usize| {
            let arm = match self.kinds[u] {
                Kind::Turn(arm) => 1.0 / arm.max(1e-3).powi(2),
                Kind::Size(ease) => ease,
                _ => 1.0,
            };
            if held(u as u32) { arm * HAND } else { arm }
        };
        (0..self.x.len()).map(of).collect()
    }

    /// The holds in sets that have to do with each other; how they are meant is taken from `x`.
    pub fn sets(&self, x: &[f64]) -> Vec<Set> {
        let mut links = UnionFind::new(self.x.len());
        let mut all = Vec::new();
        for hold in 0..self.drawing.holds.len() {
            let Ok(branch) = self.branch(hold, x) else { continue };
            let rows = self.rows(hold, &branch, x);
            rows.slots.windows(2).for_each(|w| links.union(w[0], w[1]));
            all.push((rows.slots.first().copied(), hold, branch));
        }
        let mut sets: Vec<(Option<u32>, Set)> = Vec::new();
        let mut of_root = rustc_hash::FxHashMap::default();
        for (slot, hold, branch) in all {
            let root = slot.map(|s| links.find(s));
            let n = *of_root.entry(root).or_insert_with(|| {
                sets.push((root, Set { holds: Vec::new(), branches: Vec::new() }));
                sets.len() - 1
            });
            sets[n].1.holds.push(hold);
            sets[n].1.branches.push(branch);
        }
        sets.into_iter().map(|(_, set)| set).collect()
    }

    pub fn equations(&self, set: &Set, x: &[f64]) -> Vec<Rows> {
        set.holds.iter().zip(&set.branches).map(|(hold, branch)| self.rows(*hold, branch, x)).collect()
    }

    /// How far the rules of a set are from being kept, one after the other.
    pub fn off(&self, set: &Set, x: &[f64]) -> Vec<f64> {
        self.equations(set, x).iter().flat_map(|r| r.off.iter().map(|j| j.v)).collect()
    }

    /// Walks to where the rules of a set are kept: from where it is, and where no step leads on, from close by.
    pub fn walk(
        &self,
        set: &Set,
        x: &mut Vec<f64>,
        ease: &Ease,
        progress: &Progress,
    ) -> Result<Result<(), Stuck>, Cancelled> {
        /// How far off a second and a third start lie, as a share of the drawing. A level line that is to stand upright, for
        /// one, could turn either way.
        const SHAKES: [f64; 3] = [0.0, 1e-4, 1e-2];
        for shake in SHAKES {
            let mut there = self.shaken(set, x, shake);
            if self.walk_from(set, &mut there, ease, progress)?.is_ok() {
                *x = there;
                return Ok(Ok(()));
            }
        }
        Ok(Err(Stuck))
    }

    /// The unknowns of a set a little off, always the same way.
    pub fn shaken(&self, set: &Set, x: &[f64], share: f64) -> Vec<f64> {
        let mut there = x.to_vec();
        if share == 0.0 {
            return there;
        }
        for u in self.equations(set, x).into_iter().flat_map(|r| r.slots).map(|u| u as usize) {
            let wave = ((u as f64 + 1.0) * 12.9898).sin() * 43_758.545_3;
            let by = (wave - wave.floor() - 0.5) * share;
            there[u] = match self.kinds[u] {
                Kind::Place(_) => x[u] + by * self.extent,
                Kind::Size(_) => x[u] + by * x[u],
                Kind::Turn(_) => x[u] + by,
                Kind::Still => x[u],
            };
        }
        there
    }

    fn walk_from(
        &self,
        set: &Set,
        x: &mut Vec<f64>,
        ease: &Ease,
        progress: &Progress,
    ) -> Result<Result<(), Stuck>, Cancelled> {
        let start = self.off(set, x);
        let far = start.iter().fold(0.0_f64, |a, b| a.max(b.abs()));
        if far <= self.kept() {
            return Ok(Ok(()));
        }
        let mut stage = 1.0 / (far / (0.1 * self.extent)).ceil().clamp(1.0, 20.0);
        let mut done = 0.0;
        while done < 1.0 {
            progress.check()?;
            let to = (done + stage).min(1.0);
            let aim: Vec<f64> = start.iter().map(|f| f * (1.0 - to)).collect();
            let mut there = x.clone();
            let left = self.step_to(set, &mut there, &aim, ease, progress)?;
            let fine = if to < 1.0 { (far * 1e-6).max(self.kept()) } else { self.kept() };
            if left <= fine {
                (*x, done) = (there, to);
            } else if stage < SHORTEST {
                return Ok(Err(Stuck));
            } else {
                stage *= 0.5;
            }
        }
        Ok(Ok(()))
    }

    /// Newton steps until the rules are off by `aim`; what they are off by beyond it then.
    pub fn step_to(
        &self,
        set: &Set,
        x: &mut Vec<f64>,
        aim: &[f64],
        ease: &Ease,
        progress: &Progress,
    ) -> Result<f64, Cancelled> {
        let mut rows = self.equations(set, x);
        let mut off = beyond(&rows, aim);
        let mut damp = 1e-12;
        let mut stale = 0;
        for _ in 0..STEPS {
            progress.check()?;
            if largest(&off) <= FINE || stale > 2 {
                break;
            }
            let Some(step) = self.least_step(&rows, &off, &self.eased(x, ease), damp) else {
                damp = (damp * 100.0_f64).min(1e6);
                continue;
            };
            let share = self.goes(x, &step);
            let mut there = x.clone();
            step.iter().for_each(|(u, by)| there[*u as usize] += by * share);
            let new_rows = self.equations(set, &there);
            let new_off = beyond(&new_rows, aim);
            let (was, is) = (square(&off), square(&new_off));
            if is < was {
                stale = if is > was * 0.98 { stale + 1 } else { 0 };
                (*x, rows, off) = (there, new_rows, new_off);
                damp = (damp * 0.1).max(1e-14);
            } else if largest(&off) <= self.kept() {
                break;
            } else {
                damp = (damp * 30.0).max(1e-9);
                if damp > 1e8 {
                    break;
                }
            }
        }
        Ok(largest(&off))
    }

    /// Measures change the less the smaller they are, so that none is asked to go below nought.
    fn eased(&self, x: &[f64], ease: &Ease) -> Ease {
        /// A measure of this share of the drawing moves as easily as a place.
        const SHARE: f64 = 0.01;
        let of = |u: usize| match self.kinds[u] {
            Kind::Size(_) => ease[u] * (x[u] / (SHARE * self.extent)).powi(2).clamp(1e-6, 1.0),
            _ => ease[u],
        };
        (0..ease.len()).map(of).collect()
    }

    /// How much of a step can be gone: no radius may vanish, nothing leap farther than the drawing is large.
    fn goes(&self, x: &[f64], step: &[(u32, f64)]) -> f64 {
        let of = |(u, by): &(u32, f64)| {
            let u = *u as usize;
            match self.kinds[u] {
                Kind::Size(_) if *by < 0.0 => 0.7 * x[u] / -by,
                Kind::Turn(arm) => 0.5 / (by.abs() / (self.extent / arm.max(1e-3)).min(1.0)).max(1e-300),
                _ => 0.5 * self.extent / by.abs().max(1e-300),
            }
        };
        step.iter().map(of).fold(1.0, f64::min).max(1e-6)
    }

    /// The shortest step that makes up for what is off, as far as the rules go straight.
    fn least_step(&self, rows: &[Rows], off: &[f64], ease: &Ease, damp: f64) -> Option<Vec<(u32, f64)>> {
        let flat: Vec<(&Rows, usize)> = rows.iter().flat_map(|r| (0..r.off.len()).map(move |k| (r, k))).collect();
        let mut of_unknown: rustc_hash::FxHashMap<u32, Vec<(usize, f64)>> = rustc_hash::FxHashMap::default();
        let mut places = Vec::with_capacity(flat.len());
        for (n, (r, k)) in flat.iter().enumerate() {
            let mut middle = Flat::ZERO;
            for (slot, u) in r.slots.iter().enumerate() {
                let slope = r.off[*k].d[slot];
                if slope != 0.0 {
                    of_unknown.entry(*u).or_default().push((n, slope));
                }
                middle += self.places[*u as usize];
            }
            middle /= r.slots.len().max(1) as f64;
            places.push(Point::new(middle.x, middle.y, 0.0));
        }
        let mut sums: rustc_hash::FxHashMap<(usize, usize), f64> = rustc_hash::FxHashMap::default();
        for (u, column) in &of_unknown {
            for (i, a) in column {
                for (j, b) in column {
                    *sums.entry((*i, *j)).or_default() += a * b * ease[*u as usize];
                }
            }
        }
        let most = sums.iter().filter(|((i, j), _)| i == j).map(|(_, v)| *v).fold(1e-30, f64::max);
        for n in 0..flat.len() {
            *sums.entry((n, n)).or_default() += damp * most;
        }
        let mut entries: Vec<(usize, usize, f64)> = sums.into_iter().map(|((i, j), v)| (i, j, v)).collect();
        entries.sort_unstable_by_key(|(i, j, _)| (*i, *j));
        let right: Vec<Point> = off.iter().map(|f| Point::new(-f, 0.0, 0.0)).collect();
        let pulls = Factor::new(&places, &entries)?.solve(&right);
        let mut step: Vec<(u32, f64)> = of_unknown
            .into_iter()
            .map(|(u, column)| (u, ease[u as usize] * column.iter().map(|(n, slope)| slope * pulls[*n].x).sum::<f64>()))
            .collect();
        step.sort_unstable_by_key(|(u, _)| *u);
        step.iter().all(|(_, by)| by.is_finite()).then_some(step)
    }

    /// Rounds unknowns that moved, where the rules stay kept.
    fn tidied(&self, sets: &[Set], x: Vec<f64>) -> Vec<f64> {
        let one = |(u, x): (usize, &f64)| {
            if *x == self.x[u] || matches!(self.kinds[u], Kind::Turn(_)) { *x } else { (x / TIDY).round() * TIDY }
        };
        // By way of text: what is printed with ten digits behind the point is the nearest number to that.
        let neat = |x: f64| format!("{x:.10}").parse::<f64>().unwrap_or(x) + 0.0;
        let tidy: Vec<f64> = x.iter().enumerate().map(one).map(neat).collect();
        let tidy: Vec<f64> = tidy
            .iter()
            .enumerate()
            .map(|(u, t)| if x[u] == self.x[u] || matches!(self.kinds[u], Kind::Turn(_)) { x[u] } else { *t })
            .collect();
        let kept = sets.iter().all(|set| largest(&self.off(set, &tidy)) <= self.kept());
        if kept { tidy } else { x }
    }
}

fn beyond(rows: &[Rows], aim: &[f64]) -> Vec<f64> {
    rows.iter().flat_map(|r| r.off.iter().map(|j| j.v)).zip(aim).map(|(f, a)| f - a).collect()
}

pub fn largest(off: &[f64]) -> f64 {
    off.iter().fold(0.0, |a: f64, b| if b.is_nan() { f64::INFINITY } else { a.max(b.abs()) })
}

fn square(off: &[f64]) -> f64 {
    let sum: f64 = off.iter().map(|f| f * f).sum();
    if sum.is_nan() { f64::INFINITY } else { sum }
}

impl Drawing {
    /// How far its rules are from being kept, at most, mm.
    pub fn most_off(&self) -> f64 {
        let system = System::new(self);
        system.sets(&system.x).iter().map(|set| largest(&system.off(set, &system.x))).fold(0.0, f64::max)
    }

    /// With its lines moved as little as possible until its figures and rules are kept; lines in the hand move least.
    ///
    /// # Errors
    /// A smallest set of holds that quarrel.
    pub fn settled(&self, in_hand: &dyn Fn(&str) -> bool, progress: &Progress) -> Result<Self, SettleError> {
        if self.holds.is_empty() {
            return Ok(self.clone());
        }
        let system = System::new(self);
        let mut held = vec![false; system.x.len()];
        for (n, line) in self.lines.iter().enumerate().filter(|(_, l)| in_hand(&l.name)) {
            let _ = line;
            system.unknowns(n).iter().for_each(|u| held[*u as usize] = true);
        }
        let ease = system.ease(&|u| held[u as usize]);
        let mut x = system.x.clone();
        let sets = system.sets(&x);
        let mut moved = false;
        for set in &sets {
            if largest(&system.off(set, &x)) <= system.kept() {
                continue;
            }
            moved = true;
            if system.walk(set, &mut x, &ease, progress)?.is_err() {
                return Err(system.quarrel(set, &ease, progress)?.into());
            }
        }
        if !moved {
            return Ok(self.clone());
        }
        Ok(system.with(&system.tidied(&sets, x)))
    }

    /// With lines drawn elsewhere as `to` has them, as far as the rules let them go: they follow all the way, so that nothing jumps.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn led(&self, to: &Self, progress: &Progress) -> Result<Self, Cancelled> {
        /// The hand goes in steps of this share of the drawing.
        const STRIDE: f64 = 0.04;
        let system = System::new(self);
        let goal: Vec<f64> = {
            let mut goal = system.x.clone();
            for (n, line) in to.lines.iter().enumerate() {
                for (u, p) in system.unknowns(n).iter().zip(line.draw.params()) {
                    let u = *u as usize;
                    if p.value != system.x[u] {
                        goal[u] = p.value;
                    }
                }
            }
            goal
        };
        let ease = system.ease(&|u| goal[u as usize] != system.x[u as usize]);
        let far = goal.iter().zip(&system.x).map(|(g, x)| (g - x).abs()).fold(0.0, f64::max);
        let steps = (far / (STRIDE * system.extent)).ceil().clamp(1.0, 64.0) as usize;
        let mut x = system.x.clone();
        let mut last = Vec::new();
        for k in 1..=steps {
            let share = k as f64 / steps as f64;
            let sets = system.sets(&x);
            let mut there = x.clone();
            for (u, g) in goal.iter().enumerate() {
                if *g != system.x[u] {
                    there[u] = system.x[u] + (g - system.x[u]) * share;
                }
            }
            let mut kept = true;
            for set in &sets {
                kept &= system.walk(set, &mut there, &ease, progress)?.is_ok();
            }
            // It goes no farther this way.
            if !kept {
                break;
            }
            (x, last) = (there, sets);
        }
        Ok(system.with(&system.tidied(&last, x)))
    }
}
