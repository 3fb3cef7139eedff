//! The list of steps with what each did, and the state at a place in it.

use nimbet_trade::Figures;
use nimbet_trade::seal::PlannedStep;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::Action;
use crate::hash::Hash;

/// Names a part within a job: the number of the step that made it, or for further parts of a step one of the numbers after
/// it, which no step gets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(transparent)]
pub struct PartId(pub u32);

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
    /// Its mesh.
    pub mesh: Hash,
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
    /// Further parts it made. They are numbered on from the step's number.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub made: Vec<MadePart>,
    /// The steps a plan was made of, those left out too.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub plan: Vec<PlannedStep>,
    /// How long working it out took, s; absent where nobody measured it (the ledger has no clock).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seconds: Option<f64>,
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
    /// The part's mesh afterwards.
    pub mesh: Hash,
    /// What it did.
    pub report: StepReport,
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
    pub material: Option<String>,
    /// Its figures.
    pub figures: Figures,
}

/// Steps in order, and how many of them are in force. Those after are undone and can be redone.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct History {
    /// All steps.
    pub steps: Vec<Step>,
    /// How many are in force.
    pub cursor: usize,
}

impl History {
    /// The parts as the steps in force leave them, in the order they came in.
    pub fn parts(&self) -> Vec<Part> {
        let mut parts: Vec<Part> = Vec::new();
        for step in &self.steps[..self.cursor.min(self.steps.len())] {
            if let Action::BringIn(b) = &step.action {
                parts.push(Part {
                    id: step.part,
                    name: part_name(&b.file),
                    mesh: step.mesh,
                    material: None,
                    figures: step.report.after.clone(),
                });
            } else if let Some(part) = parts.iter_mut().find(|p| p.id == step.part) {
                part.mesh = step.mesh;
                part.figures = step.report.after.clone();
                if let Action::SetMaterial(m) = &step.action {
                    part.material = Some(m.material.clone());
                }
                let (name, material) = (part.name.clone(), part.material.clone());
                let used_up = step.action.used_up();
                parts.retain(|p| !used_up.contains(&p.id));
                parts.extend(step.report.made.iter().zip(1..).map(|(made, n)| Part {
                    id: PartId(step.number + n),
                    name: format!("{name} {}", n + 1),
                    mesh: made.mesh,
                    material: material.clone(),
                    figures: made.figures.clone(),
                }));
            }
        }
        parts
    }

    /// One part as the steps in force leave it.
    pub fn part(&self, id: PartId) -> Option<Part> {
        self.parts().into_iter().find(|p| p.id == id)
    }
}

/// A file's name without folder and ending, as a part is called.
fn part_name(file: &str) -> String {
    let base = file.rsplit(['/', '\\']).next().unwrap_or(file);
    let stem = base.rsplit_once('.').map_or(base, |(stem, _)| stem).trim();
    if stem.is_empty() { "Part".into() } else { stem.chars().take(80).collect() }
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
