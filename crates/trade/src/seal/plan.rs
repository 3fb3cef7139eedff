//! `seal.plan`: chooses remedies by rules, in a safe order, and applies them one after the other.
//!
//! Order: what adds nothing goes first (it would confuse the rest); then gaps, which need both sides as they came; then
//! windings, which need connected surfaces; then covers; last the outside, which only closed shells have. After each remedy
//! the part is looked at anew. Run again on its own result it finds nothing to do.

use nimbet_kernel::{Mesh, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{AgreeWindings, CloseGaps, CoverRim, CoverStyle, Drop, RimChoice, SPECK_SHARE, TurnOutward};
use crate::examine::{Examination, Figures, FindingKind, examine};
use crate::{Operation, Outcome, PartState, TradeError};

/// Parameters of `seal.plan`: none.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {}

/// The remedies in the order in which the plan tries them.
const STAGES: [fn(&Examination) -> Option<Operation>; 6] = [drop, close_gaps, agree, cover_flat, cover_taut, turn];

impl Plan {
    pub(crate) fn apply(&self, mesh: &Mesh, progress: &Progress) -> Result<Outcome, TradeError> {
        let mut outcome = Outcome { mesh: mesh.clone(), done: vec![], left: vec![], largest_move: 0.0 };
        let turns = STAGES.len() as f64 + 1.0;
        let mut seen = examine(mesh, &progress.stage(0.0, 1.0 / turns))?;
        for (n, stage) in STAGES.iter().enumerate() {
            let Some(operation) = stage(&seen) else { continue };
            let turn = progress.stage((n as f64 + 1.0) / turns, (n as f64 + 2.0) / turns);
            turn.report(0.0, &operation.title())?;
            match operation.apply(&outcome.mesh, &turn.stage(0.0, 0.5)) {
                Ok(step) => {
                    let after = examine(&step.mesh, &turn.stage(0.5, 1.0))?;
                    if let Some(harm) = harm(&operation, &seen, &after) {
                        outcome.left.push(format!("{}: {harm}", operation.title()));
                        continue;
                    }
                    outcome.done.push(format!("{}: {}", operation.title(), step.done.join(", ")));
                    outcome.mesh = step.mesh;
                    outcome.largest_move = outcome.largest_move.max(step.largest_move);
                    seen = after;
                }
                Err(TradeError::NothingToDo { .. }) => {}
                Err(TradeError::Refused { why, .. }) => outcome.left.push(format!("{}: {why}", operation.title())),
                Err(other) => return Err(other),
            }
        }
        if seen.figures.state != PartState::Sealed {
            outcome.left.push(format!("still {}", seen.figures.reason));
        }
        if outcome.done.is_empty() {
            let why = match seen.figures.state {
                PartState::Sealed => "the part is sealed; there is nothing to do".to_owned(),
                _ => format!("no remedy of the plan applies; the part is {}", seen.figures.reason),
            };
            return Err(TradeError::nothing(why));
        }
        Ok(outcome)
    }
}

/// Why a cover would do harm: a person may want it all the same, a plan may not.
fn harm(operation: &Operation, before: &Examination, after: &Examination) -> Option<String> {
    let worse = |f: fn(&Figures) -> usize| f(&after.figures) > f(&before.figures);
    match operation {
        Operation::CoverRim(_) if worse(|f| f.crossing_pairs) || worse(|f| f.duplicates) => {
            Some("the cover would pass through the part or lie on it, so the rim was left open".into())
        }
        _ => None,
    }
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
    };
    (drop != Drop::default()).then_some(Operation::Drop(drop))
}

fn close_gaps(e: &Examination) -> Option<Operation> {
    let gaps = e.gaps.iter().map(|g| g.reach);
    let junctions = e
        .findings
        .iter()
        .filter(|f| f.kind == FindingKind::TJunction)
        .flat_map(|f| &f.remedies)
        .filter_map(|r| if let Operation::CloseGaps(c) = &r.operation { Some(c.reach) } else { None });
    gaps.chain(junctions).reduce(f64::max).map(|reach| Operation::CloseGaps(CloseGaps { reach, leave: vec![] }))
}

fn agree(e: &Examination) -> Option<Operation> {
    (e.figures.clashing_edges > 0).then_some(Operation::AgreeWindings(AgreeWindings {}))
}

fn cover(e: &Examination, style: CoverStyle) -> Option<Operation> {
    let fits = e.rims.iter().any(|r| r.closed && (style == CoverStyle::Taut || r.flat));
    fits.then_some(Operation::CoverRim(CoverRim { rims: RimChoice::All, style, height: None }))
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
