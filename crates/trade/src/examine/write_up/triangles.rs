//! Findings of triangles.

use super::MOST_OF_A_KIND;
use crate::examine::finding::{Finding, FindingKind, Place, Severity};
use crate::examine::{About, Survey};
use crate::picks::Dab;
use crate::words::{count, millimetres};

pub(super) fn triangles(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    let corners = |list: &[u32]| Place::of(list.iter().flat_map(|&t| survey.mesh.corners(t as usize)));
    tangles(survey, all);
    if !survey.duplicates.is_empty() {
        all.push(Finding {
            key: "duplicates".into(),
            kind: FindingKind::Duplicates,
            severity: Severity::Blocks,
            title: "Triangles that are there twice".into(),
            size: count(survey.duplicates.len(), "triangle", "triangles"),
            cause: "A face was copied onto itself or exported twice.".into(),
            if_left: "Edges there have three or more triangles; the part is no solid.".into(),
            place: corners(&survey.duplicates),
            about: About::Duplicates,
            remedies: vec![],
        });
    }
    if !survey.degenerate.is_empty() {
        all.push(Finding {
            key: "degenerate".into(),
            kind: FindingKind::Degenerate,
            severity: Severity::Warns,
            title: "Triangles without area".into(),
            size: count(survey.degenerate.len(), "triangle", "triangles"),
            cause: "Corners that fell together or onto one line when the model was cut into triangles.".into(),
            if_left: "They have no side to face; later cuts and offsets stumble over them.".into(),
            place: corners(&survey.degenerate),
            about: About::Degenerate,
            remedies: vec![],
        });
    }
    if !survey.folds.is_empty() {
        let ends = |edge: &u32| {
            let (a, b) = survey.topology.ends(survey.topology.halves(*edge)[0]);
            [survey.mesh.points()[a as usize], survey.mesh.points()[b as usize]]
        };
        all.push(Finding {
            key: "folds".into(),
            kind: FindingKind::Folds,
            severity: Severity::Warns,
            title: "Triangles bent back on their neighbours".into(),
            size: count(survey.folds.len(), "edge", "edges"),
            cause: "A corner was pushed past its neighbours, as rounding, thinning or a tight offset does.".into(),
            if_left: "The surface has a crease of no width there; offsets and slicers stumble over it.".into(),
            place: Place::of(survey.folds.iter().flat_map(ends)),
            about: About::Nothing,
            remedies: vec![],
        });
    }
    if !survey.slivers.is_empty() {
        all.push(Finding {
            key: "slivers".into(),
            kind: FindingKind::Slivers,
            severity: Severity::Notes,
            title: "Slivers".into(),
            size: format!("{} a thousand times longer than high", count(survey.slivers.len(), "triangle", "triangles")),
            cause: "Long edges against fine ones, as cuts and flat faces with many points on their border leave them."
                .into(),
            if_left: "The part is as good a solid; only their normals are unsure, which shading and offsets show."
                .into(),
            place: corners(&survey.slivers),
            about: About::Nothing,
            remedies: vec![],
        });
    }
}

fn tangles(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    // What is closed all over has an outer boundary.
    let closed = survey.rims.is_empty() && survey.clashing.is_empty();
    for tangle in survey.tangles.iter().take(MOST_OF_A_KIND) {
        // A little more than the extent, so that rounding leaves nothing out.
        let ball = Dab { near: tangle.place.centre, radius: tangle.place.radius * 1.001 };
        let pairs = count(tangle.pairs, "pair of triangles", "pairs of triangles");
        all.push(Finding {
            key: format!("tangle-{}", tangle.name),
            kind: FindingKind::Tangle,
            severity: Severity::Blocks,
            title: format!("Tangle {}", tangle.name),
            size: format!("{pairs}, {} across", millimetres(tangle.place.radius * 2.0)),
            cause: tangle.cause(),
            if_left: "The part is no solid: inside and outside change places where it crosses.".into(),
            place: tangle.place.clone(),
            about: About::Tangle { name: tangle.name.clone(), ball, closed },
            remedies: vec![],
        });
    }
}
