//! What is left of the part round bores, under them and between them.

use nimbet_kernel::Point;

use super::bore::Bore;
use super::bore_cut::Cut;
use super::lines::Lines;
use super::places::Seat;
use super::reach::{Span, apart, left_round};
use crate::examine::Place;
use crate::wall::Notice;
use crate::words::millimetres;

impl Bore {
    /// What is too thin round a bore or under it, or breaks out.
    pub(super) fn left(&self, lines: &Lines, seat: &Seat, cut: &Cut, span: &Span) -> Option<Notice> {
        let least = self.least_wall.unwrap_or(0.0);
        let n = seat.number;
        let reach = (span.within[1] > span.within[0]).then_some(span.within);
        // Of a drawn outline only its round part is known here; of the rest the wall's findings tell.
        let along = |radius: f64, within: [f64; 2]| left_round(lines, seat, radius, within, least);
        let round = match cut {
            Cut::Drawn { .. } => None,
            _ => reach.and_then(|within| along(cut.radius(), within)),
        };
        // Round a mouth that slopes there is no rim all round to measure.
        let head = match cut {
            _ if span.deepest > 1e-3 => None,
            Cut::Turned { head: Some(h), .. } => along(h.radius, [0.0, h.depth.max(h.slope * 0.1)]),
            Cut::Thread { lead_in: Some(mouth), form } => along(*mouth, [0.0, form.pitch * 0.1]),
            _ => None,
        };
        let round = [round, head].into_iter().flatten().min_by(|a, b| a.0.total_cmp(&b.0));
        if reach.is_none() && span.far.is_some() {
            return Some(notice(format!("bore {n} breaks out at the side"), seat.mouth, cut.radius()));
        }
        if let Some((left, at)) = round {
            if left < -1e-6 {
                return Some(notice(format!("bore {n} breaks out at the side"), at, cut.radius()));
            }
            if left < least {
                let text = format!(
                    "bore {n} leaves {} beside it, the process needs {}",
                    millimetres(left),
                    millimetres(least)
                );
                return Some(notice(text, at, cut.radius()));
            }
        }
        let floor = span.floor?;
        if floor < 0.0 {
            return Some(notice(
                format!("bore {n} breaks out at its bottom"),
                seat.mouth + seat.way * span.end,
                cut.radius(),
            ));
        }
        (floor < least).then(|| {
            let text =
                format!("bore {n} leaves {} under it, the process needs {}", millimetres(floor), millimetres(least));
            notice(text, seat.mouth + seat.way * span.end, cut.radius())
        })
    }

    /// Bores that come too near to each other.
    pub(super) fn between(&self, drilled: &[(Seat, f64, [Point; 2])]) -> Vec<Notice> {
        let least = self.least_wall.unwrap_or(0.0);
        let mut told = Vec::new();
        for (n, (seat, radius, line)) in drilled.iter().enumerate() {
            for (other, far, across) in &drilled[n + 1..] {
                if (seat.mouth - other.mouth).length()
                    > (line[1] - line[0]).length() + (across[1] - across[0]).length() + radius + far + least
                {
                    continue;
                }
                let (d, at) = apart(*line, *across);
                let left = d - radius - far;
                if left >= least {
                    continue;
                }
                let (a, b) = (seat.number, other.number);
                told.push(match left < 0.0 {
                    true => notice(format!("bores {a} and {b} run into each other"), at, *radius),
                    false => notice(
                        format!(
                            "bores {a} and {b} leave {} between them, the process needs {}",
                            millimetres(left),
                            millimetres(least)
                        ),
                        at,
                        *radius,
                    ),
                });
            }
        }
        told
    }
}

pub(super) fn notice(text: String, at: Point, radius: f64) -> Notice {
    Notice { text, place: Place { centre: at.to_array(), radius } }
}
