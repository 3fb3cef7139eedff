//! Findings where the surface is open.

use nimbet_kernel::Point;

use super::MOST_OF_A_KIND;
use crate::examine::finding::{Finding, FindingKind, Place, Severity};
use crate::examine::{About, NamedRim, RimFacts, Survey, reach_for};
use crate::words::{count, millimetres, xyz};

/// The share of a rim's edges that must lie in gaps for the gap to stand for the rim.
const EXPLAINED: f64 = 0.9;

pub(super) fn gaps(survey: &Survey<'_>, all: &mut Vec<Finding>) {
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
            about: About::Gap { reach: gap.reach },
            remedies: vec![],
        });
    }
}

pub(super) fn junctions(survey: &Survey<'_>, all: &mut Vec<Finding>) {
    for (n, junction) in survey.junctions.iter().take(MOST_OF_A_KIND).enumerate() {
        let reach = reach_for(junction.distance.max(survey.diagonal * 1e-6));
        let off = format!("{} off the edge", millimetres(junction.distance));
        let (kind, title, size, cause) = match junction.shared {
            Some(length) => (
                FindingKind::PartlyShared,
                format!("Partly shared edges P{}", n + 1),
                format!("{} of both shared, {off}", millimetres(length)),
                "Two edges lie on each other but end at different points, so that each shares only a part of itself.",
            ),
            None => (
                FindingKind::TJunction,
                format!("T-junction T{}", n + 1),
                off,
                "A corner lies on the middle of a neighbour's edge instead of on its end, so the two share no edge.",
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
            about: About::Junction { reach, both: junction.shared.is_some() },
            remedies: vec![],
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

pub(super) fn rims(survey: &Survey<'_>, all: &mut Vec<Finding>) {
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
        let about = if rim.closed {
            About::Rim { rim: named(rim), flat: rim.flat, like: counterpart(&survey.rims, rim).map(named) }
        } else {
            About::OpenChain
        };
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
            about,
            remedies: vec![],
        });
    }
}

fn named(rim: &RimFacts) -> NamedRim {
    NamedRim { name: rim.name.clone(), pick: rim.pick.clone() }
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
        about: About::Needle { reach, rim: (rim.edges >= 3).then(|| named(rim)) },
        remedies: vec![],
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
