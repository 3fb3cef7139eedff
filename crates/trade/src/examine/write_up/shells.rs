//! Findings of connected pieces.

use nimbet_kernel::Point;

use super::MOST_OF_A_KIND;
use crate::examine::finding::{Finding, FindingKind, Place, Severity};
use crate::examine::{About, SPECK_SHARE, ShellFacts, ShellRole, Survey};
use crate::words::{Xyz, count, millimetres, xyz};

pub(super) fn shells(survey: &Survey<'_>, all: &mut Vec<Finding>) {
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
            about: About::InsideOut { stray: if stray { on_shell(survey, i) } else { None } },
            remedies: vec![],
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
            about: About::StraySheet { at: on_shell(survey, i) },
            remedies: vec![],
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
            about: About::Nothing,
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
            about: About::Specks { below: small },
            remedies: vec![],
        });
    }
}

/// A place on a shell.
fn on_shell(survey: &Survey<'_>, listed: usize) -> Option<Xyz> {
    let number = survey.nesting.shells[listed].number;
    let triangle = survey.nesting.shell_of.iter().position(|s| *s == number)?;
    Some(xyz(survey.mesh.corners(triangle).iter().sum::<Point>() / 3.0))
}
