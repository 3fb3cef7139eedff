//! Turns what the passes found into findings a person can act on.

use nimbet_kernel::Point;

use super::finding::{Finding, FindingKind, Place, Remedy, Severity};
use super::{RimFacts, ShellFacts, ShellRole, Survey, reach_for};
use crate::Operation;
use crate::seal::{
    AgreeWindings, Bridge, BridgeShape, BridgeSide, CloseGaps, CoverRim, CoverStyle, Dab, Drop, FindInside, LiftChoice,
    LiftOut, MergePoints, ReSkin, RimChoice, SPECK_SHARE, TurnOutward, base_below, brace_radius, sheet_wall,
};
use crate::shape::{Brace, Untangle};
use crate::wall::Thicken;
use crate::words::{count, millimetres, xyz};

/// The share of a rim's edges that must lie in gaps for the gap to stand for the rim.
const EXPLAINED: f64 = 0.9;
/// Findings of one kind that are listed one by one; more are summed up in the figures.
const MOST_OF_A_KIND: usize = 5000;

/// All findings, those that block a solid first, the largest first within a kind.
pub(super) fn findings(survey: &Survey<'_>) -> Vec<Finding> {
    let mut all = Vec::new();
    whole(survey, &mut all);
    gaps(survey, &mut all);
    junctions(survey, &mut all);
    rims(survey, &mut all);
    edges(survey, &mut all);
    shells(survey, &mut all);
    triangles(survey, &mut all);
    all.sort_by_key(|f| (f.severity, f.kind));
    all
}

fn remedy(label: impl Into<String>, operation: Operation) -> Remedy {
    Remedy { label: label.into(), operation }
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
            remedies: vec![remedy(
                format!("Merge points within {}", millimetres(within)),
                Operation::of(MergePoints { within }),
            )],
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
            remedies: vec![
                remedy("Stand it on a floor", Operation::of(base_below(survey.across()))),
                remedy(
                    format!("Thicken by {}", millimetres(sheet_wall(survey.diagonal))),
                    Operation::of(Thicken { inward: sheet_wall(survey.diagonal), ..Default::default() }),
                ),
            ],
        });
    }
}

/// Everything becomes the border between inside and outside.
fn find_inside() -> Remedy {
    remedy("Find the inside", Operation::of(FindInside::default()))
}

fn gaps(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    for gap in survey.gaps.iter().take(MOST_OF_A_KIND) {
        let (least, most) = (millimetres(gap.width_least), millimetres(gap.width_most));
        let widths = if least == most { format!("{most} wide") } else { format!("{least} to {most} wide") };
        all.push(Finding {
            key: format!("gap-{}", gap.name),
            kind: FindingKind::Gap,
            severity: Severity::Blocks,
            title: match &gap.rims[..] {
                [one] => format!("Gap {} within {one}", gap.name),
                several => format!("Gap {} between {}", gap.name, several.join(" and ")),
            },
            size: format!("{widths}, {} long", millimetres(gap.length)),
            cause: "Two edges run along each other without meeting: the surfaces were made or cut into triangles \
                    separately, so their edges agree only roughly."
                .into(),
            if_left: "The part has a slit that the eye does not see. It encloses no volume, and a slicer guesses what \
                      is inside."
                .into(),
            place: gap.place.clone(),
            remedies: vec![remedy(
                format!("Close gaps up to {}", millimetres(gap.reach)),
                Operation::of(CloseGaps { reach: gap.reach, leave: vec![] }),
            )],
        });
    }
}

fn junctions(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    for (n, junction) in survey.junctions.iter().take(MOST_OF_A_KIND).enumerate() {
        let reach = reach_for(junction.distance.max(survey.diagonal * 1e-6));
        let off = format!("{} off the edge", millimetres(junction.distance));
        let (kind, title, size, cause, divide) = match junction.shared {
            Some(length) => (
                FindingKind::PartlyShared,
                format!("Partly shared edges P{}", n + 1),
                format!("{} of both shared, {off}", millimetres(length)),
                "Two edges lie on each other but end at different points, so that each shares only a part of itself.",
                "Divide both edges",
            ),
            None => (
                FindingKind::TJunction,
                format!("T-junction T{}", n + 1),
                off,
                "A corner lies on the middle of a neighbour's edge instead of on its end, so the two share no edge.",
                "Divide the edge there",
            ),
        };
        all.push(Finding {
            key: format!("{}-{}", if junction.shared.is_some() { "partly-shared" } else { "t-junction" }, n + 1),
            kind,
            severity: Severity::Blocks,
            title,
            size,
            cause: cause.into(),
            if_left: "A crack of no width stays open there: the part is not watertight, though it looks closed.".into(),
            place: Place { centre: xyz(junction.at), radius: junction.shared.unwrap_or(0.0) * 0.5 },
            remedies: vec![remedy(
                format!("{divide} (reach {})", millimetres(reach)),
                Operation::of(CloseGaps { reach, leave: vec![] }),
            )],
        });
    }
}

fn explained(survey: &Survey<'_>, rim: &RimFacts) -> bool {
    let in_gaps: f64 = survey.gaps.iter().filter(|g| g.rims.contains(&rim.name)).map(|g| g.length).sum();
    let centre = Point::from_array(rim.centre);
    let at_junction = survey.junctions.iter().any(|j| {
        let edges = if j.shared.is_some() { 4 } else { 3 };
        (j.at - centre).length() <= rim.extent && rim.edges <= edges
    });
    in_gaps >= EXPLAINED * rim.length || at_junction
}

fn rims(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    for rim in survey.rims.iter().filter(|r| !explained(survey, r)).take(MOST_OF_A_KIND) {
        if let Some(finding) = needle(rim) {
            all.push(finding);
            continue;
        }
        let shape = match (rim.closed, rim.flat) {
            (false, _) => "an open chain".to_owned(),
            (true, true) => "flat".to_owned(),
            (true, false) => format!("stands {} off its mean plane", millimetres(rim.off_plane)),
        };
        let cover = |style, how: &str| {
            let rims = RimChoice::Picked(vec![rim.pick.clone()]);
            remedy(format!("Cover {} {how}", rim.name), Operation::of(CoverRim { rims, style, ..Default::default() }))
        };
        let mut remedies = match (rim.closed, rim.flat) {
            (false, _) => vec![find_inside()],
            (true, true) => vec![
                cover(CoverStyle::Flat, "flat"),
                cover(CoverStyle::Taut, "taut"),
                cover(CoverStyle::Domed, "domed"),
            ],
            (true, false) => vec![cover(CoverStyle::Taut, "taut"), cover(CoverStyle::Domed, "domed")],
        };
        if let Some(other) = counterpart(&survey.rims, rim) {
            let bridge = Bridge {
                from: BridgeSide::Rim(rim.pick.clone()),
                to: BridgeSide::Rim(other.pick.clone()),
                shape: BridgeShape::Straight,
                may_cross: false,
            };
            remedies.push(remedy(format!("Bridge {} and {}", rim.name, other.name), Operation::of(bridge)));
        }
        let cause = if rim.closed {
            "The surface ends here: an opening was left, or a closing face is missing."
        } else {
            "The surface ends here, and the chain of its edges breaks off where three or more triangles share an edge."
        };
        all.push(Finding {
            key: format!("rim-{}", rim.name),
            kind: FindingKind::Rim,
            severity: Severity::Blocks,
            title: format!("Rim {}", rim.name),
            size: format!("{}, {} around, {shape}", count(rim.edges, "edge", "edges"), millimetres(rim.length)),
            cause: cause.into(),
            if_left: "The part stays a sheet: it has no inside, no volume, and cannot be released.".into(),
            place: Place { centre: rim.centre, radius: rim.extent * 0.5 },
            remedies,
        });
    }
}

/// A rim much longer than wide: a slit closed onto itself.
fn needle(rim: &RimFacts) -> Option<Finding> {
    /// A slit is a hundred times longer than wide.
    const SLENDER: f64 = 0.01;
    let width = rim.width;
    if !rim.closed || width > SLENDER * rim.length * 0.5 {
        return None;
    }
    let reach = reach_for(width);
    let rims = RimChoice::Picked(vec![rim.pick.clone()]);
    let cover = CoverRim { rims, style: CoverStyle::Taut, ..Default::default() };
    let mut remedies = vec![remedy(
        format!("Close gaps up to {}", millimetres(reach)),
        Operation::of(CloseGaps { reach, leave: vec![] }),
    )];
    if rim.edges >= 3 {
        remedies.push(remedy(format!("Cover {} taut", rim.name), Operation::of(cover)));
    }
    Some(Finding {
        key: format!("needle-{}", rim.name),
        kind: FindingKind::NeedleRim,
        severity: Severity::Blocks,
        title: format!("Needle rim {}", rim.name),
        size: format!("{} wide, {} long", millimetres(width), millimetres(rim.length * 0.5)),
        cause: "A slit closed onto itself: an edge was divided on one side only, or a sliver between two triangles was lost."
            .into(),
        if_left: "It is too thin to be seen, but the part is open there: no inside, no volume.".into(),
        place: Place { centre: rim.centre, radius: rim.extent * 0.5 },
        remedies,
    })
}

/// The rim that most looks like the other end of a missing band: of like length, and nearer than the rim is wide.
fn counterpart<'a>(rims: &'a [RimFacts], rim: &RimFacts) -> Option<&'a RimFacts> {
    const LIKE: f64 = 0.6;
    let away = |other: &RimFacts| (Point::from_array(other.centre) - Point::from_array(rim.centre)).length();
    rims.iter()
        .filter(|other| other.name != rim.name && other.closed && rim.closed)
        .filter(|other| other.length.min(rim.length) >= LIKE * other.length.max(rim.length))
        .filter(|other| away(other) <= rim.extent.min(other.extent))
        .min_by(|a, b| away(a).total_cmp(&away(b)))
}

/// Rods and beads that hold together what only touches.
fn brace(survey: &Survey<'_>) -> Remedy {
    let radius = brace_radius(survey.diagonal);
    remedy(format!("Brace with rods of {}", millimetres(radius)), Operation::of(Brace { radius }))
}

fn edges(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    let ends = |edge: &u32| {
        let (a, b) = survey.topology.ends(survey.topology.halves(*edge)[0]);
        [survey.mesh.points()[a as usize], survey.mesh.points()[b as usize]]
    };
    if !survey.crowded.is_empty() {
        let mut remedies = vec![find_inside()];
        if !survey.duplicates.is_empty() {
            let drop = Drop { duplicates: true, ..Default::default() };
            remedies.push(remedy("Drop duplicates", Operation::of(drop)));
        } else if survey.rims.is_empty() && survey.clashing.is_empty() {
            // Of bodies that are closed otherwise and only touch along an edge.
            remedies.push(brace(survey));
        }
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
            remedies,
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
            remedies: vec![remedy("Agree windings", Operation::of(AgreeWindings {})), find_inside()],
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
            remedies: if survey.rims.is_empty() { vec![brace(survey)] } else { vec![] },
        });
    }
}

fn shells(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    let listed = &survey.nesting.shells;
    let place = |i: usize| Place { centre: listed[i].centre, radius: listed[i].extent * 0.5 };
    for (i, shell) in listed.iter().enumerate().filter(|(_, s)| s.inside_out).take(MOST_OF_A_KIND) {
        let stray = shell.role == ShellRole::Stray;
        let (title, cause) = if stray {
            (
                "A shell inside the material",
                "This shell lies inside another and faces outward: it bounds no space. It is a void turned over, or a \
                 body left inside another.",
            )
        } else {
            ("A shell is inside out", "All triangles of this shell face inward.")
        };
        let mut remedies = vec![remedy("Turn outward, voids inward", Operation::of(TurnOutward {}))];
        if stray {
            remedies.push(drop_shell(survey, i));
        }
        all.push(Finding {
            key: format!("inside-out-{}", shell.number),
            kind: if stray { FindingKind::Stray } else { FindingKind::InsideOut },
            severity: Severity::Blocks,
            title: title.into(),
            size: format!("{}, {} across", count(shell.triangles, "triangle", "triangles"), millimetres(shell.extent)),
            cause: cause.into(),
            if_left: "Its volume counts with the wrong sign: what should be empty is filled, or the other way round."
                .into(),
            place: place(i),
            remedies,
        });
    }
    let stray_sheet = |s: &ShellFacts| s.role == ShellRole::Stray && !s.closed;
    for (i, shell) in listed.iter().enumerate().filter(|(_, s)| stray_sheet(s)).take(MOST_OF_A_KIND) {
        all.push(Finding {
            key: format!("stray-{}", shell.number),
            kind: FindingKind::Stray,
            severity: Severity::Blocks,
            title: "A stray sheet inside".into(),
            size: format!("{}, {} across", count(shell.triangles, "triangle", "triangles"), millimetres(shell.extent)),
            cause:
                "An open surface lies inside a closed one: a construction sheet left over, or an inner wall cut loose."
                    .into(),
            if_left: "It bounds nothing, but its rims keep the part from being a solid.".into(),
            place: place(i),
            remedies: vec![drop_shell(survey, i), find_inside()],
        });
    }
    for (i, shell) in listed.iter().enumerate().filter(|(_, s)| s.role == ShellRole::Void).take(MOST_OF_A_KIND) {
        all.push(Finding {
            key: format!("void-{}", shell.number),
            kind: FindingKind::Void,
            severity: Severity::Notes,
            title: "A trapped void".into(),
            size: format!(
                "{} mm³, {} across",
                crate::words::figure(-shell.volume.unwrap_or(0.0)),
                millimetres(shell.extent)
            ),
            cause: "A closed shell inside the part bounds empty space that no opening leads to.".into(),
            if_left: "That may be meant. But nothing can drain: resin, powder or core sand stays inside.".into(),
            place: place(i),
            remedies: vec![],
        });
    }
    let small = survey.diagonal * SPECK_SHARE;
    let specks: Vec<usize> = (1..listed.len()).filter(|&i| listed[i].extent < small).collect();
    if let Some(&largest) = specks.first() {
        all.push(Finding {
            key: "specks".into(),
            kind: FindingKind::Speck,
            severity: Severity::Warns,
            title: "Specks".into(),
            size: format!("{} below {}", count(specks.len(), "loose shell", "loose shells"), millimetres(small)),
            cause: "Loose bits, as scans and cuts leave them.".into(),
            if_left: "They print as crumbs, and each counts as a body of its own.".into(),
            place: place(largest),
            remedies: vec![remedy(
                format!("Drop specks below {}", millimetres(small)),
                Operation::of(Drop { specks_below: Some(small), ..Default::default() }),
            )],
        });
    }
}

fn drop_shell(survey: &Survey<'_>, listed: usize) -> Remedy {
    let number = survey.nesting.shells[listed].number;
    let triangle = survey.nesting.shell_of.iter().position(|s| *s == number);
    let on_it = triangle.map(|t| xyz(survey.mesh.corners(t).iter().sum::<Point>() / 3.0));
    remedy("Drop it", Operation::of(Drop { shells: on_it.into_iter().collect(), ..Default::default() }))
}

fn triangles(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    let corners = |list: &[u32]| Place::of(list.iter().flat_map(|&t| survey.mesh.corners(t as usize)));
    // What is closed all over has an outer boundary.
    let closed = survey.rims.is_empty() && survey.clashing.is_empty();
    let untangle = match closed {
        true => remedy("Untangle the part", Operation::of(Untangle::default())),
        false => find_inside(),
    };
    for tangle in survey.tangles.iter().take(MOST_OF_A_KIND) {
        /// One ring more than what crosses, so that the border runs through sound triangles.
        const RINGS: u32 = 1;
        // A little more than the extent, so that rounding leaves nothing out.
        let here = || LiftChoice::Tangle(Dab { near: tangle.place.centre, radius: tangle.place.radius * 1.001 });
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
            remedies: std::iter::once(untangle.clone())
                .chain([
                    remedy(
                        format!("Re-skin {}", tangle.name),
                        Operation::of(ReSkin { what: here(), rings: RINGS, may_cross: false }),
                    ),
                    remedy(format!("Lift {} out", tangle.name), Operation::of(LiftOut { what: here(), rings: RINGS })),
                ])
                .collect(),
        });
    }
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
            remedies: vec![remedy("Drop duplicates", Operation::of(Drop { duplicates: true, ..Default::default() }))],
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
            remedies: vec![remedy(
                "Drop triangles without area",
                Operation::of(Drop { degenerate: true, ..Default::default() }),
            )],
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
            remedies: vec![],
        });
    }
}
