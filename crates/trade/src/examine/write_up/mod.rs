//! Turns what the passes found into findings a person can act on.

mod edges;
mod openings;
mod shells;
mod triangles;

use super::finding::{Finding, FindingKind, Place, Severity};
use super::{About, Survey};
use crate::words::{count, millimetres};

/// Findings of one kind that are listed one by one; more are summed up in the figures.
const MOST_OF_A_KIND: usize = 5000;

/// All findings, those that block a solid first, the largest first within a kind.
pub(super) fn findings(survey: &Survey<'_>) -> Vec<Finding> {
    let mut all = Vec::new();
    whole(survey, &mut all);
    openings::gaps(survey, &mut all);
    openings::junctions(survey, &mut all);
    openings::rims(survey, &mut all);
    edges::edges(survey, &mut all);
    shells::shells(survey, &mut all);
    triangles::triangles(survey, &mut all);
    all.sort_by_key(|f| (f.severity, f.kind));
    all
}

/// What the part is on the whole.
fn whole(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    let everywhere = || Place::of(survey.mesh.points().iter().copied());
    if let Some(corners) = &survey.corners
        && let Some(within) = corners.suggested
    {
        all.push(Finding {
            key: "loose-corners".into(),
            kind: FindingKind::LooseCorners,
            severity: Severity::Blocks,
            title: "Corners that nearly meet".into(),
            size: format!(
                "{} on naked edges; the shortest edge has {}",
                count(corners.corners, "corner", "corners"),
                millimetres(corners.shortest_edge)
            ),
            cause: "The corners of neighbouring triangles were computed or rounded one by one, so they differ by noise far \
                    smaller than any edge."
                .into(),
            if_left: "Every triangle stands alone: nothing is closed, though it looks so.".into(),
            place: everywhere(),
            about: About::LooseCorners { within },
            remedies: vec![],
        });
    }
    if survey.sheet {
        all.push(Finding {
            key: "sheet".into(),
            kind: FindingKind::Sheet,
            severity: Severity::Blocks,
            title: "A sheet without thickness".into(),
            size: format!("one border of {}", millimetres(survey.rims.first().map_or(0.0, |r| r.length))),
            cause: "One surface with one long border, as a terrain, a relief or a panel is: it was meant to be one side of \
                    something."
                .into(),
            if_left: "It encloses nothing. Covering its border would make a body of the hollow under it.".into(),
            place: everywhere(),
            about: About::Sheet { across: survey.across(), diagonal: survey.diagonal },
            remedies: vec![],
        });
    }
}
