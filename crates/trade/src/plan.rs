//! `seal.plan`: chooses remedies by rules, in a safe order, and applies them one after the other.
//!
//! Order: corners within noise first; then what adds nothing (it would confuse the rest); then gaps, which need both sides as
//! they came; then windings, which need connected surfaces; a sheet that is meant to be one gets a base; then small tangles, which
//! need their surroundings sound; then covers; then what still crosses becomes its outer boundary; then the outside, which only
//! closed shells have. What is still no solid then becomes the border of its inside. After each remedy the part is looked at anew,
//! and a stage that lost more of what came in than a set share is left out. Run again on its own result it finds nothing to do.

use nimbet_kernel::compare::Compared;
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::{Mesh, Progress, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::{
    About, Examination, Figures, FindingKind, Known, SPECK_SHARE, Seen, ShellRole, TangleKind, look, sheet_wall,
};
use crate::harm::{HarmFacts, MAY_LOSE, far_distance, percent, taken_between};
use crate::seal::{
    AgreeWindings, CloseGaps, CoverRim, CoverStyle, Drop, FindInside, LiftChoice, MergePoints, ReSkin, RimChoice,
    TurnOutward,
};
use crate::shape::{Base, Untangle};
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::{Operation, Outcome, PartState, TradeError};

/// Parameters of `seal.plan`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Plan {
    /// Stages struck out.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub skip: Vec<PlanStage>,
    /// The share of the surface that came in that may be lost, 0 to 1; a thousandth when absent. A stage that would lose more is
    /// left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Share of the surface it may lose", range(min = 0, max = 1), extend("empty" = "a thousandth", "folded" = true))]
    pub may_lose: Option<f64>,
}

/// A stage of the plan, in the order in which they are tried.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum PlanStage {
    /// Merge corners that nearly coincide.
    MergePoints,
    /// Drop duplicates, triangles without area and specks.
    Drop,
    /// Close gaps and T-junctions.
    CloseGaps,
    /// Agree windings.
    AgreeWindings,
    /// Stand a sheet that is meant to be one on a floor.
    Base,
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
    /// Find the inside of what is still no solid.
    FindInside,
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

/// The remedies of a stage for a part, the best first; the next is tried where one does not work or loses too much.
type Choose = fn(&Examination) -> Vec<Operation>;

/// The stages with their remedies.
const STAGES: [(PlanStage, Choose); 11] = [
    (PlanStage::MergePoints, merge_points),
    (PlanStage::Drop, drop),
    (PlanStage::CloseGaps, close_gaps),
    (PlanStage::AgreeWindings, agree),
    (PlanStage::Base, base),
    (PlanStage::ReSkin, re_skin),
    (PlanStage::CoverFlat, cover_flat),
    (PlanStage::CoverTaut, cover_taut),
    (PlanStage::Untangle, untangle),
    (PlanStage::TurnOutward, turn),
    (PlanStage::FindInside, find_inside),
];

/// What a plan has come to.
struct State<'a> {
    came_in: &'a Mesh,
    outcome: Outcome,
    seen: Examination,
    /// All crossing pairs of the part, where they are known.
    crossings: Option<Vec<(u32, u32)>>,
    may_lose: f64,
}

impl Tool for Plan {
    const KIND: &'static str = "seal.plan";
    const WHAT: &'static str =
        "Choose and apply remedies by rules until the part is a solid or nothing more can be done safely.";
    const EFFORT: Effort = Effort::Planning;
    const KEEPS_FACES: bool = false;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "plan",
        name: "Seal plan",
        hint: "Choose remedies by rules, in a safe order; strike out what you do not want",
        group: "All at once",
        words: &["repair", "heal", "fix", "automatic", "watertight"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        "Seal plan".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, seen, progress, .. } = *given;
        let may_lose = self.may_lose.unwrap_or(MAY_LOSE);
        if !(0.0..=1.0).contains(&may_lose) {
            return Err(TradeError::refused("the share that may be lost is a number from 0 to 1", vec![]));
        }
        let outcome = Outcome { done: vec![], ..Outcome::of(mesh.clone(), String::new()) };
        let turns = STAGES.len() + 2;
        let mut state = match seen {
            Some(seen) => {
                let crossings = seen.no_crossings().map(<[_]>::to_vec);
                State { came_in: mesh, outcome, seen: seen.clone(), crossings, may_lose }
            }
            None => {
                let Seen { examination: seen, crossings } = look(mesh, None, &progress.part(0, turns))?;
                State { came_in: mesh, outcome, seen, crossings: Some(crossings), may_lose }
            }
        };
        for (n, (stage, remedies)) in STAGES.iter().enumerate() {
            let remedies = remedies(&state.seen);
            if remedies.is_empty() {
                continue;
            }
            let turn = progress.part(n + 1, turns);
            turn.report(0.0, &remedies[0].title())?;
            if self.skip.contains(stage) {
                state.outcome.plan.push(PlannedStep {
                    stage: *stage,
                    title: remedies[0].title(),
                    done: vec![],
                    left_out: None,
                    after: state.seen.figures.reason.clone(),
                });
                continue;
            }
            state.take(*stage, &remedies, &turn)?;
        }
        let State { mut outcome, seen, .. } = state;
        if seen.figures.state != PartState::Sealed {
            outcome.left.push(format!("still {}", seen.figures.reason));
        }
        if outcome.done.is_empty() {
            return Err(self.nothing(&outcome, &seen));
        }
        outcome.seen = Some(Box::new(seen));
        Ok(outcome)
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

impl Plan {
    fn nothing(&self, outcome: &Outcome, seen: &Examination) -> TradeError {
        TradeError::nothing(match seen.figures.state {
            PartState::Sealed => "the part is sealed; there is nothing to do".to_owned(),
            _ if !self.skip.is_empty() && outcome.plan.iter().any(|s| self.skip.contains(&s.stage)) => {
                format!("every step that applies is struck out; the part is {}", seen.figures.reason)
            }
            _ if outcome.left.len() > 1 => outcome.left.join("; "),
            _ => format!("no remedy of the plan applies; the part is {}", seen.figures.reason),
        })
    }
}

impl State<'_> {
    /// Takes a stage by the first of its remedies that works without harm; else tells why it is left out.
    fn take(&mut self, stage: PlanStage, remedies: &[Operation], progress: &Progress) -> Result<(), TradeError> {
        let mut why: Vec<(String, String)> = Vec::new();
        for (n, operation) in remedies.iter().enumerate() {
            let turn = progress.part(n, remedies.len());
            let title = operation.title();
            let refused = match self.attempt(stage, operation, &turn) {
                Ok((step, after)) => match self.harm((stage, operation), &step, &after, &turn.stage(0.9, 1.0))? {
                    None => {
                        let Seen { examination: after, crossings } = after;
                        self.outcome.done.push(format!("{title}: {}", step.done.join(", ")));
                        self.outcome.plan.push(PlannedStep {
                            stage,
                            title,
                            done: step.done,
                            left_out: None,
                            after: after.figures.reason.clone(),
                        });
                        self.outcome.mesh = step.mesh;
                        self.outcome.largest_move = self.outcome.largest_move.max(step.largest_move);
                        (self.seen, self.crossings) = (after, Some(crossings));
                        return Ok(());
                    }
                    Some(harm) => harm,
                },
                Err(TradeError::NothingToDo { .. }) => continue,
                Err(TradeError::Refused { why, .. }) => why,
                Err(other) => return Err(other),
            };
            why.push((title, refused));
        }
        self.outcome.left.extend(why.iter().map(|(title, why)| format!("{title}: {why}")));
        if let Some((title, why)) = why.into_iter().next() {
            self.outcome.plan.push(PlannedStep {
                stage,
                title,
                done: vec![],
                left_out: Some(why),
                after: self.seen.figures.reason.clone(),
            });
        }
        Ok(())
    }

    /// Applies a remedy and examines what comes of it.
    fn attempt(
        &self,
        stage: PlanStage,
        operation: &Operation,
        progress: &Progress,
    ) -> Result<(Outcome, Seen), TradeError> {
        let (turn, mesh) = (progress.stage(0.0, 0.5), &self.outcome.mesh);
        let step = match operation.tool::<FindInside>() {
            // Rods and beads only add.
            Some(find) => find.apply_unless(mesh, &|found| self.loses(operation, found, &turn), &turn)?,
            None => operation.apply(mesh, &[], &turn)?,
        };
        let surfaces = Compared::new(&self.outcome.mesh, &step.mesh, progress)?;
        let known = self.crossings.as_ref().map(|crossings| Known { surfaces: &surfaces, crossings });
        let after = look(&step.mesh, known, &progress.stage(0.5, 0.9))?;
        if stage == PlanStage::TurnOutward && void_without_wall(&step.mesh, &after.examination, progress)? {
            return Err(TradeError::refused("a void would lie on the outside, with no wall between", vec![]));
        }
        Ok((step, after))
    }

    /// Why a step would do harm: a person may want it all the same, a plan may not.
    fn harm(
        &self,
        (stage, operation): (PlanStage, &Operation),
        step: &Outcome,
        after: &Seen,
        progress: &Progress,
    ) -> Result<Option<String>, TradeError> {
        use PlanStage as S;
        let (before, now) = (&self.seen.figures, &after.examination.figures);
        let worse = |f: fn(&Figures) -> usize| f(now) > f(before);
        let said = |why: &str| Ok(Some(why.to_owned()));
        match stage {
            S::CoverFlat | S::CoverTaut
                if worse(|f| f.crossing_pairs + f.crossing_in_gaps) || worse(|f| f.duplicates) =>
            {
                return said("the cover would pass through the part or lie on it, so the rim was left open");
            }
            S::ReSkin
                if now.crossing_pairs >= before.crossing_pairs
                    || worse(|f| f.naked_edges)
                    || worse(|f| f.crowded_edges) =>
            {
                return said("the new skin would cross again, so the tangles were left");
            }
            S::Drop if worse(|f| f.naked_edges) => return said("that would open the part"),
            // What is held together, or told before, loses no more.
            S::FindInside => return Ok(None),
            _ if worse(|f| f.crowded_edges) => return said("edges would get a third triangle"),
            _ => {}
        }
        let keeps = matches!(stage, S::AgreeWindings | S::Base | S::CoverFlat | S::CoverTaut | S::TurnOutward);
        if keeps {
            return Ok(None);
        }
        self.loses(operation, &step.mesh, progress)
    }

    /// Why what a step made has too little of what came in.
    fn loses(&self, operation: &Operation, made: &Mesh, progress: &Progress) -> Result<Option<String>, TradeError> {
        /// Where walls would bury more of the surface than this, the part is no body with sheets beside it.
        const BURIED: f64 = 0.5;
        let harm = HarmFacts::of(&taken_between(&[self.came_in], &[made], progress)?);
        let walled = operation.tool::<FindInside>().is_some_and(|find| find.wall.is_some());
        if walled && harm.swallowed.share > BURIED {
            return Ok(Some(format!("{} of the surface would lie inside walls", percent(harm.swallowed.share))));
        }
        Ok((harm.lost.share > self.may_lose).then(|| {
            let loss = harm.loss().unwrap_or_default();
            format!("it would have {loss}; {} may be", percent(self.may_lose))
        }))
    }
}

/// Whether a void touches the surface round it: then it is no void but a body left inside another.
fn void_without_wall(mesh: &Mesh, seen: &Examination, progress: &Progress) -> Result<bool, TradeError> {
    /// A wall thinner than this share of what counts as far is none.
    const NONE: f64 = 0.01;
    let voids: Vec<u32> = seen.shells.iter().filter(|s| s.role == ShellRole::Void).map(|s| s.number).collect();
    if voids.is_empty() {
        return Ok(false);
    }
    let (shell_of, _) = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len()));
    let bvh = triangle_bvh(mesh);
    let wall = far_distance(mesh) * NONE;
    for (t, corners) in mesh.triangles().iter().enumerate() {
        if t % 1024 == 0 {
            progress.check()?;
        }
        if !voids.contains(&shell_of[t]) {
            continue;
        }
        let p = mesh.points()[corners[0] as usize];
        let other = |u: u32| {
            let apart = || nearest_on_triangle(p, mesh.corners(u as usize)).distance_squared(p);
            (shell_of[u as usize] != shell_of[t]).then(apart)
        };
        if bvh.nearest(p, wall, other).is_some() {
            return Ok(true);
        }
    }
    Ok(false)
}

/// Merges corners where most of them have a counterpart within noise.
fn merge_points(e: &Examination) -> Vec<Operation> {
    let within = e.corners.as_ref().and_then(|c| c.suggested);
    within.map(|within| Operation::of(MergePoints { within })).into_iter().collect()
}

/// Stands a sheet on a floor a fiftieth of its extent below it.
fn base(e: &Examination) -> Vec<Operation> {
    if !e.sheet || e.figures.clashing_edges > 0 {
        return vec![];
    }
    let across = e.shells.iter().map(|s| s.extent).fold(0.0, f64::max);
    vec![Operation::of(Base::below(across))]
}

/// What is no solid and no sheet has an inside; sheets beside it get a wall where leaving them out would lose too much.
fn find_inside(e: &Examination) -> Vec<Operation> {
    if e.figures.state == PartState::Sealed || e.sheet {
        return vec![];
    }
    /// Where so thick walls swallow each other, thinner ones may do.
    const THINNER: f64 = 0.4;
    let wall = sheet_wall(diagonal(e));
    let found = |wall| Operation::of(FindInside { wall });
    vec![found(None), found(Some(wall)), found(Some(wall * THINNER))]
}

fn diagonal(e: &Examination) -> f64 {
    e.figures.size.iter().map(|x| x * x).sum::<f64>().sqrt()
}

/// Re-skins tangles that are small against the part: a large one is a question of what was meant.
fn re_skin(e: &Examination) -> Vec<Operation> {
    const SMALL: f64 = 0.1;
    let diagonal = diagonal(e);
    let small =
        |t: &crate::examine::TangleFacts| t.kind == TangleKind::Fold && t.place.radius * 2.0 <= SMALL * diagonal;
    let skin = ReSkin { what: LiftChoice::Tangles, rings: 1, may_cross: true };
    let some = !e.tangles.is_empty() && e.tangles.iter().all(small);
    some.then_some(Operation::of(skin)).into_iter().collect()
}

/// What is closed all over and crosses itself has an outer boundary.
fn untangle(e: &Examination) -> Vec<Operation> {
    let f = &e.figures;
    let some = f.naked_edges == 0 && f.clashing_edges == 0 && f.tangles > 0;
    some.then(|| Operation::of(Untangle::default())).into_iter().collect()
}

fn has(e: &Examination, kind: FindingKind) -> bool {
    e.findings.iter().any(|f| f.kind == kind)
}

fn drop(e: &Examination) -> Vec<Operation> {
    let diagonal = diagonal(e);
    let drop = Drop {
        duplicates: e.figures.duplicates > 0,
        degenerate: e.figures.degenerate > 0,
        specks_below: has(e, FindingKind::Speck).then_some(diagonal * SPECK_SHARE),
        shells: vec![],
    };
    (drop != Drop::default()).then_some(Operation::of(drop)).into_iter().collect()
}

fn close_gaps(e: &Examination) -> Vec<Operation> {
    /// A plan reaches no farther than this share of the diagonal: more is a question of what was meant.
    const FARTHEST: f64 = 5e-3;
    let farthest = FARTHEST * diagonal(e);
    let gaps = e.gaps.iter().map(|g| g.reach);
    let junctions =
        e.findings.iter().filter_map(|f| if let About::Junction { reach, .. } = f.about { Some(reach) } else { None });
    let reach = gaps.chain(junctions).filter(|r| *r <= farthest).reduce(f64::max);
    reach.map(|reach| Operation::of(CloseGaps { reach, leave: vec![] })).into_iter().collect()
}

fn agree(e: &Examination) -> Vec<Operation> {
    let some = e.figures.clashing_edges > 0;
    some.then_some(Operation::of(AgreeWindings {})).into_iter().collect()
}

fn cover(e: &Examination, style: CoverStyle) -> Vec<Operation> {
    let fits = e.rims.iter().any(|r| r.closed && (style == CoverStyle::Taut || r.flat));
    let cover = CoverRim { rims: RimChoice::All, style, ..Default::default() };
    fits.then_some(Operation::of(cover)).into_iter().collect()
}

fn cover_flat(e: &Examination) -> Vec<Operation> {
    cover(e, CoverStyle::Flat)
}

fn cover_taut(e: &Examination) -> Vec<Operation> {
    cover(e, CoverStyle::Taut)
}

fn turn(e: &Examination) -> Vec<Operation> {
    let f = &e.figures;
    // Which shell lies in which says nothing where they cross.
    let some = f.inside_out_shells > 0 && f.naked_edges == 0 && f.crossing_pairs == 0 && f.crowded_edges == 0;
    some.then_some(Operation::of(TurnOutward {})).into_iter().collect()
}
