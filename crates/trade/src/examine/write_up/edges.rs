//! Findings at edges and points where more than two triangles meet, or sides disagree.

use super::MOST_OF_A_KIND;
use crate::examine::finding::{Finding, FindingKind, Place, Severity};
use crate::examine::{About, Survey};
use crate::words::count;

pub(super) fn edges(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    let ends = |edge: &u32| {
        let (a, b) = survey.topology.ends(survey.topology.halves(*edge)[0]);
        [survey.mesh.points()[a as usize], survey.mesh.points()[b as usize]]
    };
    if !survey.crowded.is_empty() {
        // Of bodies that are closed otherwise and only touch along an edge.
        let alone = survey.duplicates.is_empty() && survey.rims.is_empty() && survey.clashing.is_empty();
        let touching = alone.then_some(survey.diagonal);
        all.push(Finding {
            key: "crowded".into(),
            kind: FindingKind::CrowdedEdges,
            severity: Severity::Blocks,
            title: "Edges of three or more triangles".into(),
            size: count(survey.crowded.len(), "edge", "edges"),
            cause: "Several surfaces meet along these edges: a wall inside the part, a face that is there twice, or bodies \
                    that touch along an edge."
                .into(),
            if_left: "Inside and outside cannot be told apart there; the part is no solid.".into(),
            place: Place::of(survey.crowded.iter().flat_map(ends)),
            about: About::Crowded { twice: !survey.duplicates.is_empty(), touching },
            remedies: vec![],
        });
    }
    if !survey.clashing.is_empty() {
        all.push(Finding {
            key: "clash".into(),
            kind: FindingKind::Clash,
            severity: Severity::Blocks,
            title: "Sides disagree".into(),
            size: count(survey.clashing.len(), "edge", "edges"),
            cause: "Neighbouring triangles were wound opposite ways, so one shows its inside where the other shows its outside."
                .into(),
            if_left: "Volume and wall come out wrong, and a printer may leave the turned patches open.".into(),
            place: Place::of(survey.clashing.iter().flat_map(ends)),
            about: About::Clash,
            remedies: vec![],
        });
    }
    for (n, &point) in survey.touching.iter().take(MOST_OF_A_KIND).enumerate() {
        all.push(Finding {
            key: format!("touch-{}", n + 1),
            kind: FindingKind::TouchPoint,
            severity: Severity::Warns,
            title: format!("Surfaces touch at point P{}", n + 1),
            size: "one point".into(),
            cause: "Two surfaces share this point but no edge.".into(),
            if_left: "The part is held together by nothing there; some programs tear it apart.".into(),
            place: Place::of([survey.mesh.points()[point as usize]]),
            about: if survey.rims.is_empty() {
                About::TouchPoint { diagonal: survey.diagonal }
            } else {
                About::Nothing
            },
            remedies: vec![],
        });
    }
}
