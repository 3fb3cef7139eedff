//! `shape.union`, `shape.difference`, `shape.intersection`: bodies of several parts.

use nimbet_kernel::{Mesh, Progress, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::parameter::Part;
use crate::solids::{arranged, body, cut_faces, volume, whole_body};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::count;
use crate::{Called, Made, Outcome, TradeError};

/// Parameters of `shape.union`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Union {
    /// The numbers of the parts that become one with this one.
    #[schemars(title = "The other parts", with = "Vec<Part>", extend("least" = 1))]
    pub with: Vec<u32>,
}

/// Parameters of `shape.difference`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Difference {
    /// The numbers of the parts that are taken away from this one.
    #[schemars(title = "Parts taken away", with = "Vec<Part>", extend("least" = 1))]
    pub with: Vec<u32>,
    /// Whether they stay as parts of their own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Keep them as parts too")]
    pub keep: bool,
    /// Whether this part is taken away from the (single) other one instead.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "The other way round", extend("when" = { "/with/0": true }))]
    pub swap: bool,
}

/// Parameters of `shape.intersection`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Intersection {
    /// The numbers of the parts of which, with this one, what all have in common is kept.
    #[schemars(title = "The other parts", with = "Vec<Part>", extend("least" = 1))]
    pub with: Vec<u32>,
    /// Whether they stay as parts of their own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Keep them as parts too")]
    pub keep: bool,
}

impl Tool for Union {
    const KIND: &'static str = "shape.union";
    const WHAT: &'static str = "Make several solids one.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "union",
        name: "Union",
        hint: "Several solids become one",
        group: "Together and apart",
        words: &["boolean", "add", "combine", "merge", "fuse"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "with": [] }),
    }];

    fn title(&self) -> String {
        format!("Union of {}", count(self.with.len() + 1, "part", "parts"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        let sealed = given.sealed();
        let (all, inputs) = together(mesh, others, &self.with, sealed, progress)?;
        let made = whole_body(&all, |w| w.iter().any(|w| *w > 0), &progress.stage(0.8, 1.0))?;
        let what = count(inputs, "part", "parts");
        let cut = cut_faces(&made, &numbered(&self.with));
        let mut outcome = Outcome { cut, ..Outcome::of(made.mesh, String::new()) };
        outcome.done = vec![format!("made one of {what}: {}", volume(&outcome.mesh))];
        let apart = bodies(&outcome.mesh);
        if apart > 1 && meets_nothing(&all, inputs) {
            outcome.left =
                vec![format!("the parts do not meet: they are one part of {} now", count(apart, "shell", "shells"))];
        }
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.with.iter_mut().collect()
    }

    fn uses_up(&self) -> bool {
        true
    }
}

impl Tool for Difference {
    const KIND: &'static str = "shape.difference";
    const WHAT: &'static str = "Take solids away from a solid.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "difference",
        name: "Difference",
        hint: "Other solids are taken away from this one",
        group: "Together and apart",
        words: &["boolean", "subtract", "cut", "minus"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "with": [] }),
    }];

    fn title(&self) -> String {
        format!("Take {} away", count(self.with.len(), "part", "parts"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        let sealed = given.sealed();
        if self.swap && others.len() != 1 {
            return Err(TradeError::refused("swapping needs exactly one other part", vec![]));
        }
        let (from, tools) = if self.swap { (&others[0], std::slice::from_ref(mesh)) } else { (mesh, others) };
        let (all, inputs) = together(from, tools, &self.with, sealed && !self.swap, progress)?;
        let rule = |w: &[i16]| w[0] > 0 && w[1..].iter().all(|w| *w <= 0);
        let made = whole_body(&all, rule, &progress.stage(0.8, 1.0))?;
        if made.mesh.triangles().is_empty() {
            return Err(TradeError::refused(
                "nothing would be left: the part lies wholly inside what is taken away",
                vec![],
            ));
        }
        if meets_nothing(&all, inputs) {
            return Err(TradeError::nothing("the parts do not meet, so nothing is taken away"));
        }
        let away = volume(&taken(&all, progress)?);
        let by = if self.swap { vec![None] } else { numbered(&self.with) };
        let cut = cut_faces(&made, &by);
        let mut outcome = Outcome { cut, ..Outcome::of(made.mesh, String::new()) };
        outcome.done = vec![format!("took {away} away; {} are left", volume(&outcome.mesh))];
        let shells = bodies(&outcome.mesh);
        if shells > bodies(from) {
            outcome.done.push(format!("the part has {} now", count(shells, "shell", "shells")));
        }
        // Otherwise the tools stay by themselves.
        if self.keep && self.swap {
            let stays =
                |(mesh, number): (&Mesh, &u32)| Made { mesh: mesh.clone(), called: Called::As(*number), inside: None };
            outcome.more = tools.iter().zip(&self.with).map(stays).collect();
        }
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.with.iter_mut().collect()
    }

    fn uses_up(&self) -> bool {
        self.swap || !self.keep
    }
}

impl Tool for Intersection {
    const KIND: &'static str = "shape.intersection";
    const WHAT: &'static str = "Keep what solids have in common.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "intersection",
        name: "Intersection",
        hint: "Keep what solids have in common",
        group: "Together and apart",
        words: &["boolean", "common", "overlap", "and"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "with": [] }),
    }];

    fn title(&self) -> String {
        format!("Intersection of {}", count(self.with.len() + 1, "part", "parts"))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        let sealed = given.sealed();
        let (all, inputs) = together(mesh, others, &self.with, sealed, progress)?;
        let made = whole_body(&all, |w| w.iter().all(|w| *w > 0), &progress.stage(0.8, 1.0))?;
        if made.mesh.triangles().is_empty() {
            return Err(TradeError::nothing("the parts have nothing in common: they do not overlap"));
        }
        let done = format!("kept what {} have in common: {}", count(inputs, "part", "parts"), volume(&made.mesh));
        let cut = cut_faces(&made, &numbered(&self.with));
        Ok(Outcome { cut, ..Outcome::of(made.mesh, done) })
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.with.iter_mut().collect()
    }

    fn uses_up(&self) -> bool {
        !self.keep
    }
}

fn numbered(with: &[u32]) -> Vec<Option<u32>> {
    with.iter().map(|n| Some(*n)).collect()
}

/// The parts arranged, and how many they are; the first may be known to be sealed.
fn together(
    mesh: &Mesh,
    others: &[Mesh],
    numbers: &[u32],
    sealed: bool,
    progress: &Progress,
) -> Result<(nimbet_kernel::arrange::Arrangement, usize), TradeError> {
    if others.is_empty() {
        return Err(TradeError::refused("choose the other parts", vec![]));
    }
    let inputs: Vec<&Mesh> = std::iter::once(mesh).chain(others).collect();
    let name = |n: usize| match n {
        0 => "the part".to_owned(),
        n => format!("part {}", numbers.get(n - 1).copied().unwrap_or(0)),
    };
    Ok((arranged(&inputs, sealed, &name, &progress.stage(0.0, 0.8))?, inputs.len()))
}

/// What of the first input lies in any of the others.
fn taken(all: &nimbet_kernel::arrange::Arrangement, progress: &Progress) -> Result<Mesh, TradeError> {
    body(all, |w| w[0] > 0 && w[1..].iter().any(|w| *w > 0), progress)
}

/// Whether no two inputs overlap or touch with their insides.
fn meets_nothing(all: &nimbet_kernel::arrange::Arrangement, inputs: usize) -> bool {
    inputs > 1 && !all.cells().any(|c| c.winding.iter().filter(|w| **w > 0).count() > 1)
}

fn bodies(mesh: &Mesh) -> usize {
    shells::shells(&Topology::new(mesh.triangles(), mesh.points().len())).1
}
