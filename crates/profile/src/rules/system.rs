//! The unknowns of a drawing and the equations of its rules. Places that are one share their unknowns.

use nimbet_kernel::union_find::UnionFind;
use rustc_hash::FxHashMap;

use super::element::{Element, Kind, Param};
use super::jet::{At, Jet, MOST};
use super::residual::{Branch, branch, rows};
use super::{Rule, Spot, Which};
use crate::Flat;
use crate::drawing::{Drawing, DrawingError};

/// Places nearer than this are one, mm.
const TOGETHER: f64 = 1e-6;

/// The unknowns of a drawing.
pub struct System<'a> {
    pub drawing: &'a Drawing,
    numbers: FxHashMap<&'a str, usize>,
    /// The first figure of each line, then their number.
    first: Vec<usize>,
    params: Vec<Param>,
    /// The unknown each figure is.
    unknown: Vec<u32>,
    /// What the unknowns are now.
    pub x: Vec<f64>,
    /// What each unknown is.
    pub kinds: Vec<Kind>,
    /// Where each unknown is, near enough.
    pub places: Vec<Flat>,
    /// How far the drawing reaches, mm.
    pub extent: f64,
}

/// What a rule sees: jets for its own unknowns.
pub struct Local<'s, 'a> {
    pub system: &'s System<'a>,
    x: &'s [f64],
    /// The unknowns that have a jet.
    pub slots: Vec<u32>,
    /// It speaks of more unknowns than any rule does.
    full: bool,
}

/// The equations of a rule: what each is off by, and the unknowns the derivatives are by.
pub struct Rows {
    pub off: Vec<Jet>,
    pub slots: Vec<u32>,
}

impl<'a> System<'a> {
    pub fn new(drawing: &'a Drawing) -> Self {
        let mut system = Self {
            drawing,
            numbers: drawing.lines.iter().enumerate().map(|(n, l)| (l.name.as_str(), n)).collect(),
            first: vec![0],
            params: Vec::new(),
            unknown: Vec::new(),
            x: Vec::new(),
            kinds: Vec::new(),
            places: Vec::new(),
            extent: 1.0,
        };
        let (mut at, mut still) = (Vec::new(), Vec::new());
        for line in &drawing.lines {
            let own = line.draw.params();
            still.extend(std::iter::repeat_n(line.still, own.len()));
            let anchor = own.first().zip(own.get(1)).map_or(Flat::ZERO, |(x, y)| Flat::new(x.value, y.value));
            let mut k = 0;
            while k < own.len() {
                let place = matches!(own[k].kind, Kind::Place(_));
                let here = if place { Flat::new(own[k].value, own[k + 1].value) } else { anchor };
                let width = if place { 2 } else { 1 };
                at.extend(std::iter::repeat_n(here, width));
                k += width;
            }
            system.params.extend(own);
            system.first.push(system.params.len());
        }
        system.share(&at, &still);
        system
    }

    /// Gives places that are one the same unknowns.
    fn share(&mut self, at: &[Flat], still: &[bool]) {
        let mut sets = UnionFind::new(self.params.len());
        let mut cells: FxHashMap<(i64, i64), Vec<usize>> = FxHashMap::default();
        let mut k = 0;
        while k < self.params.len() {
            let Kind::Place(joins) = self.params[k].kind else {
                k += 1;
                continue;
            };
            if joins {
                let cell = |x: f64| (x / TOGETHER).floor() as i64;
                let (cx, cy) = (cell(at[k].x), cell(at[k].y));
                let near = (-1..=1).flat_map(|dx| (-1..=1).map(move |dy| (cx + dx, cy + dy)));
                let found = near.filter_map(|c| cells.get(&c)).flatten().copied();
                if let Some(other) = found.filter(|o| at[*o].distance(at[k]) <= TOGETHER).min() {
                    sets.union(other as u32, k as u32);
                    sets.union(other as u32 + 1, k as u32 + 1);
                }
                cells.entry((cx, cy)).or_default().push(k);
            }
            k += 2;
        }
        let (unknown, count) = sets.number_sets();
        self.unknown = unknown;
        self.x = vec![f64::NAN; count];
        self.kinds = vec![Kind::Still; count];
        self.places = vec![Flat::ZERO; count];
        for (k, param) in self.params.iter().enumerate() {
            let u = self.unknown[k] as usize;
            if self.x[u].is_nan() {
                (self.x[u], self.kinds[u], self.places[u]) = (param.value, param.kind, at[k]);
            }
        }
        // What a part has carried down lies where it is, and what is there with it.
        for (k, param) in self.params.iter().enumerate().filter(|(k, _)| still[*k]) {
            let u = self.unknown[k] as usize;
            (self.x[u], self.kinds[u]) = (param.value, Kind::Still);
        }
        let (least, most) = at.iter().fold((Flat::INFINITY, Flat::NEG_INFINITY), |(a, b), p| (a.min(*p), b.max(*p)));
        let sizes = self.params.iter().filter(|p| matches!(p.kind, Kind::Size(_))).map(|p| p.value);
        self.extent = sizes.fold((most - least).length(), f64::max).max(1e-3);
        if !self.extent.is_finite() {
            self.extent = 1.0;
        }
    }

    /// The number of a line.
    pub fn line(&self, name: &str) -> Option<usize> {
        self.numbers.get(name).copied()
    }

    /// The unknowns of a line, in the order of its figures.
    pub fn unknowns(&self, line: usize) -> &[u32] {
        &self.unknown[self.first[line]..self.first[line + 1]]
    }

    /// The drawing with other unknowns. Lines of which none changed stay exactly as they are.
    pub fn with(&self, x: &[f64]) -> Drawing {
        let mut drawing = self.drawing.clone();
        for (n, line) in drawing.lines.iter_mut().enumerate() {
            let own = self.unknowns(n);
            let params = &self.params[self.first[n]..self.first[n + 1]];
            let now: Vec<f64> = own.iter().map(|u| x[*u as usize]).collect();
            if now.iter().zip(params).any(|(x, p)| *x != p.value) {
                line.draw.set_params(&now);
            }
        }
        drawing
    }

    fn local<'s>(&'s self, x: &'s [f64]) -> Local<'s, 'a> {
        Local { system: self, x, slots: Vec::new(), full: false }
    }

    /// Where a place is now.
    pub fn place(&self, spot: &Spot) -> Option<Flat> {
        self.local(&self.x).spot(spot).ok().map(|at| Flat::new(at.x.v, at.y.v))
    }

    /// A curve as it is now.
    pub fn element(&self, curve: &str) -> Result<Element, String> {
        self.local(&self.x).element(curve)
    }

    /// Whether a round curve is an arc, not whole.
    pub fn is_arc(&self, curve: &str) -> bool {
        matches!(self.element(curve), Ok(Element::Round { arc: Some(_), .. }))
    }

    /// Whether a rule can be held at all.
    pub fn can_hold(&self, rule: &Rule) -> bool {
        branch(rule, &mut self.local(&self.x)).is_ok()
    }

    /// How much the figure of a rule is now.
    pub fn measured(&self, rule: &Rule) -> Option<f64> {
        let mut rule = rule.clone();
        *rule.figure_mut()? = 0.0;
        let branch = branch(&rule, &mut self.local(&self.x)).ok()?;
        let off = rows(&rule, &branch, &mut self.local(&self.x)).ok()?.first()?.v;
        Some(match rule {
            Rule::Diameter { .. } => 2.0 * off,
            Rule::Angle { .. } | Rule::Corner { .. } => (off / branch.arm()).to_degrees(),
            _ => off,
        })
    }

    /// What of a hold depends on how the drawing lies: on which side, in which sense.
    pub fn branch(&self, hold: usize, x: &[f64]) -> Result<Branch, String> {
        branch(&self.drawing.holds[hold].rule, &mut self.local(x))
    }

    /// The equations of a hold.
    pub fn rows(&self, hold: usize, branch: &Branch, x: &[f64]) -> Rows {
        let mut local = self.local(x);
        let off = rows(&self.drawing.holds[hold].rule, branch, &mut local).unwrap_or_default();
        Rows { off, slots: local.slots }
    }
}

impl Local<'_, '_> {
    /// A line's number, and which of its curves is meant.
    fn find(&self, curve: &str) -> Result<(usize, Option<usize>), String> {
        let (line, n) = match curve.split_once('.') {
            None => (curve, None),
            Some((line, n)) => (line, n.parse::<usize>().ok().and_then(|n| n.checked_sub(1))),
        };
        let found = self.system.line(line).ok_or_else(|| format!("there is no line {line}"))?;
        if !self.system.drawing.lines[found].draw.copied().is_empty() && curve.contains('.') {
            return Err(format!("line {line} is a copy: it follows its lines; hold those"));
        }
        Ok((found, n))
    }

    fn with<T>(&mut self, line: usize, what: impl FnOnce(&mut dyn FnMut(usize) -> Jet) -> Option<T>) -> Option<T> {
        let system = self.system;
        what(&mut |k| {
            let unknown = system.unknown[system.first[line] + k];
            let value = self.x[unknown as usize];
            if system.kinds[unknown as usize] == Kind::Still {
                return Jet::fixed(value);
            }
            let slot = self.slots.iter().position(|s| *s == unknown).unwrap_or_else(|| {
                self.slots.push(unknown);
                self.slots.len() - 1
            });
            if slot < MOST {
                return Jet::unknown(value, slot);
            }
            self.full = true;
            Jet::fixed(value)
        })
    }

    pub fn element(&mut self, curve: &str) -> Result<Element, String> {
        let (line, n) = self.find(curve)?;
        let draw = &self.system.drawing.lines[line].draw;
        let found = self.with(line, |x| draw.element(n, x));
        self.fits(
            found.ok_or_else(|| format!("{curve} is nothing a rule can hold: name one of its lines, like {curve}.1")),
        )
    }

    pub fn spot(&mut self, spot: &Spot) -> Result<At, String> {
        if spot.which == Which::Zero {
            return Ok(At::fixed([0.0, 0.0]));
        }
        let (line, n) = self.find(&spot.of)?;
        let draw = &self.system.drawing.lines[line].draw;
        let found = self.with(line, |x| draw.spot(n, spot.which, x));
        self.fits(found.ok_or_else(|| format!("there is no {spot}")))
    }

    fn fits<T>(&self, found: Result<T, String>) -> Result<T, String> {
        if self.full { Err("it speaks of too many figures at once".into()) } else { found }
    }
}

/// Whether what the holds of a drawing speak of is there.
pub fn check(drawing: &Drawing) -> Result<(), DrawingError> {
    if drawing.holds.is_empty() {
        return Ok(());
    }
    let system = System::new(drawing);
    for (n, hold) in drawing.holds.iter().enumerate() {
        system.branch(n, &system.x).map_err(|why| DrawingError { line: hold.name.clone(), why })?;
    }
    Ok(())
}

impl Drawing {
    /// How much the figure of a rule is now, to as many digits as are kept.
    pub(crate) fn measured(&self, rule: &Rule) -> Option<f64> {
        let figure = System::new(self).measured(rule)?;
        format!("{figure:.9}").parse().ok()
    }

    /// The names of holds that speak of what is not there.
    pub(crate) fn lost_holds(&self) -> Vec<String> {
        let system = System::new(self);
        let lost = |n: &usize| system.branch(*n, &system.x).is_err();
        (0..self.holds.len()).filter(lost).map(|n| self.holds[n].name.clone()).collect()
    }
}
