//! `seal.plan`: chooses remedies by rules, in a safe order, and applies them one after the other.
//!
//! Order: what adds nothing goes first (it would confuse the rest); then gaps, which need both sides as they came; then
//! windings, which need connected surfaces; then small tangles, which need their surroundings sound; then
//! covers; then what still crosses becomes its outer boundary; last the outside, which only closed shells have. After each
//! remedy the part is looked at anew. Run again on its own result it finds nothing to do.

use nimbet_kernel::{Mesh, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{
    AgreeWindings, CloseGaps, CoverRim, CoverStyle, Drop, LiftChoice, ReSkin, RimChoice, SPECK_SHARE, TurnOutward,
};
use crate::examine::{Examination, Figures, FindingKind, TangleKind, examine};
use crate::shape::Untangle;
use crate::{Operation, Outcome, PartState, TradeError};

/// Parameters of `seal.plan`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Stages struck out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub skip: Vec<PlanStage>,
}

/// A stage of the plan, in the order in which they are tried.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum PlanStage {
    /// Drop duplicates, triangles without area and specks.
    Drop,
    /// Close gaps and T-junctions.
    CloseGaps,
    /// Agree windings.
    AgreeWindings,
    /// Re-skin small tangles.
    ReSkin,
    /// Cover flat rims flat.
    CoverFlat,
    /// Cover the other rims taut.
    CoverTaut,
    /// Make what crosses itself its outer boundary.
    Untangle,
    /// Turn shells outward, voids inward.
    TurnOutward,
}

/// One step of a plan: what it is and what comes of it, or why it is left out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PlannedStep {
    /// Which stage.
    pub stage: PlanStage,
    /// What the step is called.
    pub title: String,
    /// What it does, a sentence for each thing; empty if it is left out.
    pub done: Vec<String>,
    /// Why it is left out; absent if it was struck out or is done.
    pub left_out: Option<String>,
    /// The part after it, in words: "open: 2 rims, 214 mm".
    pub after: String,
}

/// The remedy of a stage for a part, if it calls for one.
type Choose = fn(&Examination) -> Option<Operation>;

/// The stages with their remedies.
const STAGES: [(PlanStage, Choose); 8] = [
    (PlanStage::Drop, drop),
    (PlanStage::CloseGaps, close_gaps),
    (PlanStage::AgreeWindings, agree),
    (PlanStage::ReSkin, re_skin),
    (PlanStage::CoverFlat, cover_flat),
    (PlanStage::CoverTaut, cover_taut),
    (PlanStage::Untangle, untangle),
    (PlanStage::TurnOutward, turn),
];

impl Plan {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        let mut outcome = Outcome { done: vec![], ..Outcome::of(mesh.clone(), String::new()) };
        let turns = STAGES.len() + 1;
        let mut seen = examine(mesh, &progress.part(0, turns))?;
        for (n, (stage, remedy)) in STAGES.iter().enumerate() {
            let Some(operation) = remedy(&seen) else { continue };
            let turn = progress.part(n + 1, turns);
            turn.report(0.0, &operation.title())?;
            let mut planned = PlannedStep {
                stage: *stage,
                title: operation.title(),
                done: vec![],
                left_out: None,
                after: seen.figures.reason.clone(),
            };
            if self.skip.contains(stage) {
                outcome.plan.push(planned);
                continue;
            }
            match attempt(&operation, &outcome.mesh, &seen, &turn) {
                Ok((step, after)) => {
                    planned.left_out = harm(&operation, &seen, &after);
                    if planned.left_out.is_none() {
                        outcome.done.push(format!("{}: {}", planned.title, step.done.join(", ")));
                        planned.done = step.done;
                        planned.after = after.figures.reason.clone();
                        outcome.mesh = step.mesh;
                        outcome.largest_move = outcome.largest_move.max(step.largest_move);
                        seen = after;
                    }
                }
                Err(TradeError::NothingToDo { .. }) => continue,
                Err(TradeError::Refused { why, .. }) => planned.left_out = Some(why),
                Err(other) => return Err(other),
            }
            if let Some(why) = &planned.left_out {
                outcome.left.push(format!("{}: {why}", planned.title));
            }
            outcome.plan.push(planned);
        }
        if seen.figures.state != PartState::Sealed {
            outcome.left.push(format!("still {}", seen.figures.reason));
        }
        if outcome.done.is_empty() {
            let why = match seen.figures.state {
                PartState::Sealed => "the part is sealed; there is nothing to do".to_owned(),
                _ if !self.skip.is_empty() && outcome.plan.iter().any(|s| self.skip.contains(&s.stage)) => {
                    format!("every step that applies is struck out; the part is {}", seen.figures.reason)
                }
                _ if !outcome.left.is_empty() => outcome.left.join("; "),
                _ => format!("no remedy of the plan applies; the part is {}", seen.figures.reason),
            };
            return Err(TradeError::nothing(why));
        }
        Ok(outcome)
    }
}

/// Applies a step and examines what comes of it. Rims left open because their covers would pass through the part are covered
/// with their surroundings re-skinned, if that leaves no harm.
fn attempt(
    operation: &Operation,
    mesh: &Mesh,
    seen: &Examination,
    progress: &Progress,
) -> Result<(Outcome, Examination), TradeError> {
    let clear = operation.apply(mesh, &[], &progress.stage(0.0, 0.2));
    let Operation::CoverRim(cover @ CoverRim { style: CoverStyle::Taut, .. }) = operation else {
        let step = clear?;
        let after = examine(&step.mesh, &progress.stage(0.2, 1.0))?;
        return Ok((step, after));
    };
    let (base, refusal) = match clear {
        Ok(step) => {
            let after = examine(&step.mesh, &progress.stage(0.2, 0.4))?;
            (Some((step, after)), None)
        }
        Err(refusal @ TradeError::Refused { .. }) => (None, Some(refusal)),
        Err(other) => return Err(other),
    };
    let (done, start, start_seen) = match &base {
        Some((step, after)) if step.left.is_empty() => return Ok((step.clone(), after.clone())),
        Some((step, after)) => (step.done.clone(), &step.mesh, after),
        None => (vec![], mesh, seen),
    };
    // The rest: covered all the same, and re-skinned where the cover crosses.
    let through = Operation::CoverRim(CoverRim { may_cross: true, ..cover.clone() });
    let skin = Operation::ReSkin(ReSkin { what: LiftChoice::Tangles, rings: 1, may_cross: true });
    if let Ok(mut rest) = through.apply(start, &[], &progress.stage(0.4, 0.6)) {
        /// A new skin may cross again at its border; a second round takes a ring more.
        const ROUNDS: usize = 3;
        for round in 0..ROUNDS {
            let turn = progress.stage(0.6, 1.0).part(round, ROUNDS);
            let Ok(skinned) = skin.apply(&rest.mesh, &[], &turn.stage(0.0, 0.5)) else { break };
            rest.mesh = skinned.mesh;
            let after = examine(&rest.mesh, &turn.stage(0.5, 1.0))?;
            let fewer = after.figures.naked_edges < start_seen.figures.naked_edges;
            if fewer
                && after.figures.crowded_edges <= seen.figures.crowded_edges
                && after.figures.clashing_edges <= seen.figures.clashing_edges
                && harm(operation, seen, &after).is_none()
            {
                rest.done = [done, rest.done].concat();
                rest.done.push("re-skinned where those covers crossed what is round them".into());
                return Ok((rest, after));
            }
        }
    }
    base.ok_or_else(|| refusal.unwrap_or_else(|| TradeError::nothing("no rim can be covered")))
}

/// Why a cover would do harm: a person may want it all the same, a plan may not.
fn harm(operation: &Operation, before: &Examination, after: &Examination) -> Option<String> {
    let worse = |f: fn(&Figures) -> usize| f(&after.figures) > f(&before.figures);
    match operation {
        Operation::CoverRim(_) if worse(|f| f.crossing_pairs + f.crossing_in_gaps) || worse(|f| f.duplicates) => Some(
            "the cover would pass through the part or lie on it, so the rim was left open: split it and cover its runs"
                .into(),
        ),
        Operation::ReSkin(_)
            if after.figures.crossing_pairs >= before.figures.crossing_pairs
                || worse(|f| f.naked_edges)
                || worse(|f| f.crowded_edges) =>
        {
            Some("the new skin would cross again, so the tangles were left".into())
        }
        _ if worse(|f| f.crowded_edges) => Some("edges would get a third triangle".into()),
        _ => None,
    }
}

/// Re-skins tangles that are small against the part: a large one is a question of what was meant.
fn re_skin(e: &Examination) -> Option<Operation> {
    const SMALL: f64 = 0.1;
    let diagonal = e.figures.size.iter().map(|x| x * x).sum::<f64>().sqrt();
    let small =
        |t: &crate::examine::TangleFacts| t.kind == TangleKind::Fold && t.place.radius * 2.0 <= SMALL * diagonal;
    (!e.tangles.is_empty() && e.tangles.iter().all(small)).then_some(Operation::ReSkin(ReSkin {
        what: LiftChoice::Tangles,
        rings: 1,
        may_cross: true,
    }))
}

/// What is closed all over and crosses itself has an outer boundary.
fn untangle(e: &Examination) -> Option<Operation> {
    let f = &e.figures;
    (f.naked_edges == 0 && f.clashing_edges == 0 && f.tangles > 0).then(|| Operation::Untangle(Untangle::default()))
}

fn has(e: &Examination, kind: FindingKind) -> bool {
    e.findings.iter().any(|f| f.kind == kind)
}

fn drop(e: &Examination) -> Option<Operation> {
    let diagonal = e.figures.size.iter().map(|x| x * x).sum::<f64>().sqrt();
    let drop = Drop {
        duplicates: e.figures.duplicates > 0,
        degenerate: e.figures.degenerate > 0,
        specks_below: has(e, FindingKind::Speck).then_some(diagonal * SPECK_SHARE),
        shells: vec![],
    };
    (drop != Drop::default()).then_some(Operation::Drop(drop))
}

fn close_gaps(e: &Examination) -> Option<Operation> {
    let gaps = e.gaps.iter().map(|g| g.reach);
    let junctions = e
        .findings
        .iter()
        .filter(|f| matches!(f.kind, FindingKind::TJunction | FindingKind::PartlyShared))
        .flat_map(|f| &f.remedies)
        .filter_map(|r| if let Operation::CloseGaps(c) = &r.operation { Some(c.reach) } else { None });
    gaps.chain(junctions).reduce(f64::max).map(|reach| Operation::CloseGaps(CloseGaps { reach, leave: vec![] }))
}

fn agree(e: &Examination) -> Option<Operation> {
    (e.figures.clashing_edges > 0).then_some(Operation::AgreeWindings(AgreeWindings {}))
}

fn cover(e: &Examination, style: CoverStyle) -> Option<Operation> {
    let fits = e.rims.iter().any(|r| r.closed && (style == CoverStyle::Taut || r.flat));
    fits.then_some(Operation::CoverRim(CoverRim { rims: RimChoice::All, style, ..Default::default() }))
}

fn cover_flat(e: &Examination) -> Option<Operation> {
    cover(e, CoverStyle::Flat)
}

fn cover_taut(e: &Examination) -> Option<Operation> {
    cover(e, CoverStyle::Taut)
}

fn turn(e: &Examination) -> Option<Operation> {
    (e.figures.inside_out_shells > 0).then_some(Operation::TurnOutward(TurnOutward {}))
}
