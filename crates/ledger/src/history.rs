//! The list of steps with what each did, and the state at a place in it.

use std::sync::LazyLock;

use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::PlannedStep;
use nimbet_trade::fasten::ThreadMark;
use nimbet_trade::harm::HarmFacts;
use nimbet_trade::wall::Notice;
use nimbet_trade::{Called, CutFaces, Figures, Instead, examine};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::{Action, LONGEST_NAME, Label, SetMaterial};
use crate::hash::{Hash, mesh_hash};

/// Names a part within a job: the number of the step that made it, or for further parts of a step one of the numbers after
/// it, which no step gets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct PartId(pub u32);

impl PartId {
    /// The empty bench, on which profiles and bodies are begun where there is no part. It has no surface and stays so.
    pub const BENCH: Self = Self(0);
}

/// The bench as a part that nothing is in.
static BENCH: LazyLock<Part> = LazyLock::new(|| {
    let nothing = Mesh::default();
    let seen = examine(&nothing, &Progress::unwatched());
    let figures = seen.map(|seen| seen.figures).unwrap_or_else(|_| unreachable!("nobody cancels it"));
    Part::new(PartId::BENCH, "Bench".into(), mesh_hash(&nothing).0, &figures)
});

/// How a step changed the surface of its part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct SurfaceChange {
    /// Triangles that were not there before.
    pub triangles_added: usize,
    /// Triangles that are there no more.
    pub triangles_removed: usize,
    /// No point of the surface afterwards lies farther from that before than this, mm; absent where either is empty.
    pub away: Option<f64>,
    /// No point of the surface before lies farther from that afterwards than this, mm.
    pub back: Option<f64>,
}

/// A further part a step made.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct MadePart {
    /// Its number, once the step is in a ledger; absent, they are numbered on from the step's number.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub part: Option<PartId>,
    /// Its mesh.
    pub mesh: Hash,
    /// What it is called; absent in steps done before parts were named for what they are.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub called: Option<Called>,
    /// Its figures.
    pub figures: Figures,
    /// A place inside it, mm, where the step knows one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub inside: Option<[f64; 3]>,
}

/// What a step did, in figures.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct StepReport {
    /// What was done, a sentence for each thing.
    pub done: Vec<String>,
    /// What could not be done.
    pub left: Vec<String>,
    /// The farthest any point of the surface was moved, mm.
    pub largest_move: f64,
    /// The part before; absent for a part brought in.
    pub before: Option<Figures>,
    /// The part afterwards.
    pub after: Figures,
    /// How the surface changed; absent for a part brought in.
    #[serde(default)]
    pub change: Option<SurfaceChange>,
    /// Further parts it made.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub made: Vec<MadePart>,
    /// The steps a plan was made of, those left out too.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub plan: Vec<PlannedStep>,
    /// New faces, by the part that cut them.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub cut: Vec<CutFaces>,
    /// What else it does that is worth knowing, with where.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub notices: Vec<Notice>,
    /// Steps that would keep what it loses.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub instead: Option<Instead>,
    /// Threads it made or marked.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub threads: Vec<ThreadMark>,
    /// What of the surface it lost, swallowed and invented; absent where it moves the part as a whole, and in steps done before
    /// this was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub harm: Option<HarmFacts>,
    /// How long working it out took, s; absent where nobody measured it (the ledger has no clock).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seconds: Option<f64>,
}

impl StepReport {
    /// That of a step of which nothing is told but what the part is afterwards.
    pub fn of(after: Figures) -> Self {
        Self {
            done: vec![],
            left: vec![],
            largest_move: 0.0,
            before: None,
            after,
            change: None,
            made: vec![],
            plan: vec![],
            cut: vec![],
            notices: vec![],
            instead: None,
            threads: vec![],
            harm: None,
            seconds: None,
        }
    }
}

/// Where a step stands.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "is", rename_all = "snake_case")]
pub enum StepState {
    /// Done: what it made counts.
    #[default]
    Done,
    /// It found nothing to do on what the steps before it make now; the part goes on as it is.
    Idle {
        /// Why, in plain words.
        why: String,
    },
    /// Set aside by a person; the part goes on as it is.
    Parked,
    /// It cannot be done any more on what the steps before it make now.
    Stopped {
        /// Why, in plain words.
        why: String,
        /// Where, mm.
        places: Vec<[f64; 3]>,
        /// Whether something that was picked is not found any more.
        new_pick: bool,
    },
    /// It comes after a stopped step that it depends on; of a file: it is still to be read anew.
    Waiting {
        /// The stopped step.
        on: u32,
    },
}

/// A step that was done.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Step {
    /// Counted from 1, never used twice in a job.
    pub number: u32,
    /// The part it was done to, or made.
    pub part: PartId,
    /// What was done.
    pub action: Action,
    /// The part's mesh after it was last done.
    pub mesh: Hash,
    /// What it did then.
    pub report: StepReport,
    /// Where it stands.
    pub state: StepState,
    /// What people call it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What people noted on it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
}

/// A part at some place in the ledger.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Part {
    /// Its id.
    pub id: PartId,
    /// Its name.
    pub name: String,
    /// Its mesh.
    pub mesh: Hash,
    /// What it is made of, once chosen.
    pub material: Option<SetMaterial>,
    /// Its figures.
    pub figures: Figures,
    /// The faces other parts cut into it.
    pub cut: Vec<CutBy>,
    /// The colour it is shown in, as `#rrggbb`, where it has one of its own.
    pub colour: Option<String>,
    /// The group it is in.
    pub group: Option<String>,
}

/// Faces of a part that another part cut.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CutBy {
    /// The step.
    pub step: u32,
    /// What the cutting part was called then.
    pub by: String,
    /// The first number of the faces.
    pub first: u32,
    /// The number after the last.
    pub end: u32,
}

/// Steps in order, and how many of them are in force. Those after are held back.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct History {
    /// All steps.
    pub steps: Vec<Step>,
    /// How many are in force.
    pub cursor: usize,
}

impl Step {
    /// The further parts it made, by number.
    pub fn made(&self) -> impl Iterator<Item = (PartId, &MadePart)> {
        self.report.made.iter().zip(1..).map(|(made, n)| (made.part.unwrap_or(PartId(self.number + n)), made))
    }

    /// The faces other parts cut in it, those called as they are in `parts`.
    fn cut_by(&self, parts: &[Part]) -> Vec<CutBy> {
        let name =
            |id: u32| parts.iter().find(|p| p.id.0 == id).map_or_else(|| format!("part {id}"), |p| p.name.clone());
        let cut = self.report.cut.iter();
        cut.map(|c| CutBy { step: self.number, by: name(c.by.unwrap_or(self.part.0)), first: c.first, end: c.end })
            .collect()
    }

    /// All parts there are because of it.
    pub fn makes(&self) -> impl Iterator<Item = PartId> {
        let own = Some(self.part).filter(|_| matches!(self.action, Action::BringIn(_)));
        own.into_iter().chain(self.made().map(|(part, _)| part))
    }
}

impl History {
    /// The steps whose results count.
    pub fn in_force(&self) -> impl Iterator<Item = &Step> {
        self.steps[..self.cursor.min(self.steps.len())].iter().filter(|s| s.state == StepState::Done)
    }

    /// The stopped step after which a part is not what it was meant to be.
    pub fn stopped(&self, part: PartId) -> Option<&Step> {
        let held = &self.steps[..self.cursor.min(self.steps.len())];
        let broken = |s: &&Step| matches!(s.state, StepState::Stopped { .. } | StepState::Waiting { .. });
        let step = held.iter().filter(broken).find(|s| s.part == part || s.makes().any(|p| p == part))?;
        match step.state {
            StepState::Waiting { on } => held.iter().find(|s| s.number == on),
            _ => Some(step),
        }
    }

    /// Why a step may not be done to a part now, in plain words.
    pub fn refuses(&self, part: PartId, action: &Action) -> Option<String> {
        let scaled = |s: &&Step| s.part == part && s.action.scales_pattern() && action.scales_pattern();
        let before = self.in_force().find(scaled)?;
        Some(format!(
            "the pattern was made larger for shrinkage in step {} already; change that step instead, or remove it first",
            before.number
        ))
    }

    /// What a part was after each step in force that changed it, the oldest first: the step and the mesh.
    pub fn states(&self, part: PartId) -> Vec<(u32, Hash)> {
        let mut states: Vec<(u32, Hash)> = Vec::new();
        for step in self.in_force() {
            let own = (step.part == part && !step.made().any(|(p, _)| p == part)).then_some(step.mesh);
            let made = step.made().find(|(p, _)| *p == part).map(|(_, made)| made.mesh);
            if let Some(mesh) = own.or(made).filter(|m| states.last().is_none_or(|(_, last)| last != m)) {
                states.push((step.number, mesh));
            }
        }
        states
    }

    /// The parts as the steps in force leave them, in the order they came in.
    pub fn parts(&self) -> Vec<Part> {
        let mut parts: Vec<Part> = Vec::new();
        for step in self.in_force() {
            if let Action::BringIn(b) = &step.action {
                let picked = b.bodies.as_deref().unwrap_or_default();
                let name = picked.first().map(|p| p.name.trim().to_owned()).filter(|n| !n.is_empty());
                let name = distinct(name.unwrap_or_else(|| part_name(&b.file)), &parts);
                let first = parts.len();
                parts.push(Part::new(step.part, name, step.mesh, &step.report.after));
                let of = parts[first].clone();
                take_made(&mut parts, step, &of);
                for (part, picked) in parts[first..].iter_mut().zip(picked) {
                    part.colour.clone_from(&picked.colour);
                }
            } else if let Some(at) = parts.iter().position(|p| p.id == step.part) {
                let cut = step.cut_by(&parts);
                let part = &mut parts[at];
                if let Action::Operation(work) = &step.action {
                    // A part cut away from another goes on with that one's numbers.
                    if !work.operation.keeps_face_numbers() || step.report.cut.iter().any(|c| c.by.is_none()) {
                        part.cut.clear();
                    }
                    part.cut.extend(cut);
                }
                part.mesh = step.mesh;
                part.figures = step.report.after.clone();
                if let Action::SetMaterial(m) = &step.action {
                    part.material = Some(m.clone());
                }
                if let Action::Label(label) = &step.action {
                    label_part(&mut parts, at, label);
                    continue;
                }
                let of = parts[at].clone();
                take_made(&mut parts, step, &of);
            } else if step.part == PartId::BENCH {
                take_made(&mut parts, step, &BENCH);
            }
        }
        parts
    }

    /// The ledger up to a step, without it or with it.
    pub fn until(&self, step: u32, with: bool) -> Option<Self> {
        let at = self.steps.iter().position(|s| s.number == step)? + usize::from(with);
        Some(Self { steps: self.steps[..at].to_vec(), cursor: at.min(self.cursor) })
    }

    /// One part as the steps in force leave it, or the bench.
    pub fn part(&self, id: PartId) -> Option<Part> {
        if id == PartId::BENCH { Some(BENCH.clone()) } else { self.parts().into_iter().find(|p| p.id == id) }
    }
}

impl Part {
    /// The bench.
    pub(crate) fn bench() -> &'static Self {
        &BENCH
    }

    fn new(id: PartId, name: String, mesh: Hash, figures: &Figures) -> Self {
        Self { id, name, mesh, material: None, figures: figures.clone(), cut: vec![], colour: None, group: None }
    }
}

impl MadePart {
    /// The part it is, made of another one while there were these.
    fn named(&self, id: PartId, of: &Part, parts: &[Part]) -> Part {
        let name = match &self.called {
            Some(Called::Plain(name)) => name.clone(),
            Some(Called::Of(what)) => format!("{what} of {}", of.name),
            Some(Called::As(number)) => {
                parts.iter().find(|p| p.id.0 == *number).map_or_else(|| of.name.clone(), |p| p.name.clone())
            }
            None => of.name.clone(),
        };
        let (material, group) = (of.material.clone(), of.group.clone());
        Part { material, group, ..Part::new(id, name.chars().take(LONGEST_NAME).collect(), self.mesh, &self.figures) }
    }
}

/// Takes in the parts a step made of one, and out those it used up.
fn take_made(parts: &mut Vec<Part>, step: &Step, of: &Part) {
    let used_up = step.action.used_up(step.part);
    let named: Vec<Part> = step.made().map(|(id, made)| made.named(id, of, parts)).collect();
    parts.retain(|p| !used_up.contains(&p.id));
    for part in named {
        let name = distinct(part.name, parts);
        parts.push(Part { name, ..part });
    }
}

/// A name no part has: the same with a number where one has it.
fn distinct(name: String, parts: &[Part]) -> String {
    let is_free = |name: &str| parts.iter().all(|p| p.name != name);
    if is_free(&name) {
        return name;
    }
    (2..).map(|n: u32| format!("{name} {n}")).find(|name| is_free(name)).unwrap_or(name)
}

fn label_part(parts: &mut [Part], at: usize, label: &Label) {
    if let Some(name) = &label.name {
        // Its own name is free.
        parts[at].name.clear();
        parts[at].name = distinct(name.trim().to_owned(), parts);
    }
    let given = |text: &String| Some(text.trim().to_owned()).filter(|t| !t.is_empty());
    if let Some(colour) = &label.colour {
        parts[at].colour = given(colour);
    }
    if let Some(group) = &label.group {
        parts[at].group = given(group);
    }
}

/// A file's name without folder and ending, as a part is called.
pub(crate) fn part_name(file: &str) -> String {
    let base = file.rsplit(['/', '\\']).next().unwrap_or(file);
    let stem = base.rsplit_once('.').map_or(base, |(stem, _)| stem).trim();
    if stem.is_empty() { "Part".into() } else { stem.chars().take(LONGEST_NAME).collect() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_are_called_after_their_files() {
        assert_eq!(part_name("C:\\work\\Vent cowl.stl"), "Vent cowl");
        assert_eq!(part_name("a/b.c.ply"), "b.c");
        assert_eq!(part_name(".stl"), "Part");
    }
}
