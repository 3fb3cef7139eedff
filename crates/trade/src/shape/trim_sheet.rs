//! `shape.trim_sheet`: cuts a sheet by a plane, another sheet or a profile; the pieces that stay are pointed at.

use std::collections::BTreeSet;

use nimbet_kernel::arrange::{Arrangement, Parted};
use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::segments::nearest_on_triangle;
use nimbet_kernel::{Mesh, Point, Topology, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::sheet_ends::{SheetEnd, refuse_what_is_no_sheet};
use crate::parameter::Position;
use crate::solids::told;
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, figure};
use crate::{Made, Outcome, TradeError};

/// Which pieces of a sheet stay.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum PiecesKept {
    /// All: the largest, and each other as a part of its own.
    #[default]
    #[schemars(title = "All, each a part")]
    All,
    /// Those at these places, together as the part.
    #[schemars(title = "Those clicked")]
    Picked(
        #[schemars(with = "Vec<Position>", extend("asks" = "points", "hint" = "Click the pieces that stay."))] Vec<Xyz>,
    ),
}

/// Parameters of `shape.trim_sheet`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct TrimSheet {
    /// What cuts.
    #[schemars(title = "Cut by")]
    pub by: SheetEnd,
    /// What stays.
    #[serde(default)]
    #[schemars(title = "What stays")]
    pub keep: PiecesKept,
}

/// More parts than this nobody can handle one by one.
const MOST_PIECES: usize = 200;

/// A pick is on a piece no farther from it than this share of the sheet.
const CLOSE: f64 = 1e-3;

impl Tool for TrimSheet {
    const KIND: &'static str = "shape.trim_sheet";
    const WHAT: &'static str = "Cut a sheet by a plane, another sheet or a profile.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "trim_sheet",
        name: "Trim a sheet",
        hint: "Cut a sheet by a plane, a sheet or a profile; click what stays",
        group: "Sheets",
        words: &["cut surface", "split", "cookie", "clip", "trim surface", "hole in a sheet"],
        needs: Needs::Border,
        mark: "",
        start: |b| json!({ "by": { "plane": { "at": b.middle(), "normal": [0, 0, 1] } } }),
    }];

    fn title(&self) -> String {
        "Trim a sheet".into()
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        refuse_what_is_no_sheet(mesh)?;
        let cutter = self.by.sheet(given, &progress.stage(0.0, 0.1))?;
        let all = Arrangement::new(&[], &[mesh, &cutter], &progress.stage(0.1, 0.8))
            .map_err(|e| told(e, &|_| "the sheet".into()))?;
        let parted = all.parted(0)?;
        if parted.seams.is_empty() {
            return Err(TradeError::nothing(format!("{} does not go through the sheet", self.by.name())));
        }
        let before = shells::shells(&Topology::new(mesh.triangles(), mesh.points().len())).1;
        if parted.pieces <= before {
            let why = "the cut ends within the sheet and parts nothing; let it reach beyond the border";
            return Err(TradeError::refused(why, parted.loose_ends()));
        }
        let tidy = |sheet: Mesh| all.without_splinters(sheet, &progress.stage(0.9, 1.0));
        match &self.keep {
            PiecesKept::All => each_a_part(&parted, tidy),
            PiecesKept::Picked(picks) => {
                let stays = picked(&parted, picks)?;
                if stays.len() == parted.pieces {
                    return Err(TradeError::nothing("every piece of the sheet stays"));
                }
                let kept = parted.mesh.retain_triangles(|t| stays.contains(&parted.piece_of[t]));
                let done = format!(
                    "{} of {} {}: {} of {} mm²",
                    stays.len(),
                    count(parted.pieces, "piece", "pieces"),
                    if stays.len() == 1 { "stays" } else { "stay" },
                    figure(area(&kept)),
                    figure(area(mesh))
                );
                Ok(Outcome::of(tidy(kept)?, done))
            }
        }
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.by.parts()
    }
}

fn area(mesh: &Mesh) -> f64 {
    nimbet_kernel::measure::measure(mesh).area
}

fn each_a_part(
    parted: &Parted,
    tidy: impl Fn(Mesh) -> Result<Mesh, nimbet_kernel::Cancelled>,
) -> Result<Outcome, TradeError> {
    if parted.pieces > MOST_PIECES {
        let why = format!("that would make {}; {MOST_PIECES} are the most", count(parted.pieces, "part", "parts"));
        return Err(TradeError::refused(why, vec![]));
    }
    let mut parts = parted.mesh.pieces(&parted.piece_of, parted.pieces);
    parts.sort_by(|a, b| area(b).total_cmp(&area(a)));
    let areas: Vec<String> = parts.iter().take(4).map(|p| format!("{} mm²", figure(area(p)))).collect();
    let and_more = if parts.len() > areas.len() { " and more" } else { "" };
    let done = format!("cut into {}: {}{and_more}", count(parts.len(), "piece", "pieces"), areas.join(", "));
    let mut parts = parts.into_iter().map(tidy);
    let largest = parts.next().transpose()?.unwrap_or_default();
    let more = Made::each_of(parts.collect::<Result<_, _>>()?, "Piece", 2);
    Ok(Outcome { more, ..Outcome::of(largest, done) })
}

/// The pieces that were pointed at.
fn picked(parted: &Parted, picks: &[Xyz]) -> Result<BTreeSet<u32>, TradeError> {
    if picks.is_empty() {
        let why = format!("it is cut into {}; click those that stay", count(parted.pieces, "piece", "pieces"));
        return Err(TradeError::refused(why, places(parted)));
    }
    let bvh = triangle_bvh(&parted.mesh);
    let most = bvh.bounds().diagonal() * CLOSE;
    let find = |pick: &Xyz| {
        let place = Point::from_array(*pick);
        let distance =
            |t: u32| Some(nearest_on_triangle(place, parted.mesh.corners(t as usize)).distance_squared(place));
        let found = if place.is_finite() { bvh.nearest(place, most, distance) } else { None };
        let found = found.map(|(t, _)| parted.piece_of[t as usize]);
        found.ok_or_else(|| TradeError::NeedsNewPick { what: "the piece".into(), place })
    };
    picks.iter().map(find).collect()
}

/// A place in each piece: the middle of its largest triangle; of the first pieces.
fn places(parted: &Parted) -> Vec<Point> {
    const MOST: usize = 20;
    let mut best: Vec<(f64, Point)> = vec![(-1.0, Point::ZERO); parted.pieces.min(MOST)];
    for (t, piece) in parted.piece_of.iter().enumerate() {
        let Some(held) = best.get_mut(*piece as usize) else { continue };
        let size = parted.mesh.area_vector(t).length();
        if size > held.0 {
            let [a, b, c] = parted.mesh.corners(t);
            *held = (size, (a + b + c) / 3.0);
        }
    }
    best.into_iter().map(|(_, place)| place).collect()
}
