//! What all ways of making a wall share: their styles, their faults in words, and what of the part is lost.

use nimbet_kernel::offset::{Corners, Fault, How, Rims, rounding};
use nimbet_kernel::thickness::{Gauge, Side, Way, middles};
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::TradeError;
use crate::budget::{Cost, Effort, Extent, refuse_fine_chord};
use crate::examine::{FaceSurface, Place, face_facts};
use crate::parameter::Direction;
use crate::words::{Xyz, count, millimetres};

/// How corners that stand out are made.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum CornerStyle {
    /// Moved faces go on until they meet.
    #[default]
    #[schemars(title = "Sharp corners")]
    Sharp,
    /// Every point at the distance: arcs along edges, spheres at corners.
    #[schemars(title = "Round corners")]
    Round,
}

/// How a wall closes at the rims of a sheet.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum RimStyle {
    /// Square to the sheet.
    #[default]
    #[schemars(title = "Square to the sheet")]
    Square,
    /// Along a direction, so that an opening keeps that of the tool that cut it.
    Along(#[schemars(with = "Direction")] Xyz),
}

/// Something worth knowing about what a step does, with where it is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Notice {
    /// In plain words.
    pub text: String,
    /// Where.
    pub place: Place,
}

/// More notices than this nobody reads one by one.
const MOST_NOTICES: usize = 30;

/// How far arcs may be off where nothing is said: this share of the part, as fine as the eye sees on the whole of it.
const CHORD_SHARE: f64 = 5e-4;

/// A surface is moved by no more than so many times its part.
const FARTHEST: f64 = 1000.0;

/// How a surface is moved by distances (below 0 inward).
pub(super) fn how(
    mesh: &Mesh,
    by: &[f64],
    corners: CornerStyle,
    rims: RimStyle,
    chord: Option<f64>,
) -> Result<How, TradeError> {
    let chord = match chord {
        Some(c) => c,
        None => Aabb::of(mesh.points().iter().copied()).diagonal().max(1e-6) * CHORD_SHARE,
    };
    let across = Aabb::of(mesh.points().iter().copied()).diagonal();
    if let Some(far) = by.iter().find(|by| by.abs() > across * FARTHEST) {
        let why = format!("{} is more than a thousand times the part", millimetres(far.abs()));
        return Err(TradeError::refused(why, vec![]));
    }
    if corners == CornerStyle::Round {
        refuse_fine_chord(chord, &|chord| by.iter().map(|by| rounding(mesh, *by, chord)).sum())?;
    }
    let corners = if corners == CornerStyle::Sharp { Corners::Sharp } else { Corners::Round };
    let rims = match rims {
        RimStyle::Square => Rims::Square,
        RimStyle::Along(direction) => match Point::from_array(direction).try_normalize() {
            Some(way) => Rims::Along(way),
            None => return Err(TradeError::refused("the direction of the rims must not be zero", vec![])),
        },
    };
    Ok(How { corners, rims, chord })
}

/// What a part moved as a whole costs, or sampled on a grid; with so much of it kept beside that.
pub(super) fn moved_cost(parts: &[Extent], sampled: Option<f64>, kept: f64) -> Cost {
    let before: f64 = parts.iter().map(|p| p.triangles).sum();
    match sampled {
        Some(step) => Cost::of(Effort::Sampling, before, kept * before + parts[0].squares(step)),
        None => Cost::of(Effort::Moving, before, (1.0 + kept) * before),
    }
}

/// A fault in words, with where it is.
pub(super) fn told(fault: Fault) -> TradeError {
    match fault {
        Fault::Cancelled(c) => c.into(),
        Fault::Mesh(m) => m.into(),
        Fault::Crowded(at) => TradeError::refused(
            "three or more triangles share an edge here, so there is no outside to grow to; separate or brace it first",
            vec![at],
        ),
        Fault::Clashing(at) => TradeError::refused(
            "neighbouring triangles disagree about the outside here; agree the windings first",
            vec![at],
        ),
        Fault::Degenerate(at) => {
            TradeError::refused("a triangle has no area here; drop degenerate triangles first", vec![at])
        }
        Fault::AlongSurface(at) => TradeError::refused(
            "the direction of the rims lies in the surface here, so the wall would never end; choose another direction",
            vec![at],
        ),
        Fault::Unfilled(at) => TradeError::refused(
            "surfaces that move by different amounts leave a gap here that cannot be rounded; choose sharp corners, or \
             move them by one amount",
            vec![at],
        ),
        Fault::TooRound(at, made) => TradeError::refused(
            format!(
                "this corner would be rounded by about {:.0} million triangles; a coarser chord, or a smaller distance, would do",
                (made * 1e-6).max(1.0)
            ),
            vec![at],
        ),
        Fault::TooTangled => TradeError::refused(
            "the surface is rougher than the wall is thick: it would cross itself in over a million places. Choose \
             sampling at a resolution, or smooth it first",
            vec![],
        ),
        Fault::TooFine(finest) => TradeError::refused(
            format!(
                "so fine a grid does not fit into memory; {} is about the finest for this part",
                millimetres(finest)
            ),
            vec![],
        ),
        Fault::Nothing => TradeError::refused("nothing would be left: the part is nowhere as thick as that", vec![]),
    }
}

/// The surfaces of a part that are gone after moving by a distance, which has the sign of the way they moved: what they are, how
/// tight they are, where; and which are too tight for it. `moved` is what was added to the numbers of faces.
pub(super) fn lost_faces(
    before: &Mesh,
    after: &Mesh,
    moved: u32,
    by: f64,
    progress: &Progress,
) -> Result<(Vec<Notice>, Vec<FaceId>), TradeError> {
    /// Of a face too tight to be moved by that crumbs may stay at its corners.
    const CRUMBS: f64 = 0.1;
    let mut there: std::collections::HashMap<u32, f64> = std::collections::HashMap::new();
    for (t, face) in after.face_of().iter().enumerate() {
        *there.entry(face.0).or_default() += after.area_vector(t).length() / 2.0;
    }
    let (mut notices, mut tight) = (Vec::new(), Vec::new());
    for face in face_facts(before, None, progress)? {
        let hollow = match &face.surface {
            FaceSurface::Cylinder { radius, hollow, .. }
            | FaceSurface::Sphere { radius, hollow, .. }
            | FaceSurface::Torus { radius, hollow, .. } => Some((*radius, *hollow)),
            _ => None,
        };
        let is_tight = hollow.is_some_and(|(radius, hollow)| radius <= by.abs() && hollow == (by > 0.0));
        let least = if is_tight { face.area * CRUMBS } else { 0.0 };
        if there.get(&(face.id + moved)).is_some_and(|left| *left > least) {
            continue;
        }
        let text = match hollow {
            Some((radius, _)) if is_tight => {
                tight.push(FaceId(face.id));
                format!(
                    "the {} disappears: its radius of {} is less than {}",
                    face.text,
                    millimetres(radius),
                    millimetres(by.abs())
                )
            }
            _ => format!("the face ({}) disappears at {}", face.text, millimetres(by.abs())),
        };
        if notices.len() < MOST_NOTICES {
            notices.push(Notice { text, place: face.place });
        }
    }
    Ok((notices, tight))
}

/// Slots, or thin places, that close when both their sides move by a distance, a notice for each face: `side` says through what
/// they are measured.
pub(super) fn closing(mesh: &Mesh, side: Side, by: f64, progress: &Progress) -> Result<Vec<Notice>, TradeError> {
    /// Places that are looked at, spread over the part.
    const LOOKED_AT: usize = 20_000;
    let all = middles(mesh);
    let step = all.len().div_ceil(LOOKED_AT).max(1);
    let places: Vec<(u32, Point)> = all.into_iter().step_by(step).collect();
    let found = Gauge::new(mesh, side, by * 2.0).all(&places, Way::Ball, progress)?;
    let mut of_face: std::collections::BTreeMap<FaceId, (f64, Vec<Point>)> = std::collections::BTreeMap::new();
    for ((t, p), found) in places.iter().zip(found) {
        let Some(found) = found.filter(|f| f.across < by * 2.0) else { continue };
        let held = of_face.entry(mesh.face_of()[*t as usize]).or_insert((f64::INFINITY, vec![]));
        held.0 = held.0.min(found.across);
        held.1.push(*p);
    }
    let what = if side == Side::Outside { "a slot" } else { "a wall" };
    let mut notices: Vec<(f64, Notice)> = of_face
        .into_values()
        .map(|(least, points)| {
            let text = format!("{what} of {} closes", millimetres(least));
            (least, Notice { text, place: Place::of(points) })
        })
        .collect();
    notices.sort_by(|a, b| a.0.total_cmp(&b.0));
    notices.truncate(MOST_NOTICES);
    Ok(notices.into_iter().map(|n| n.1).collect())
}

/// How far a wall may be off, in words, where it was cleaned.
pub(super) fn cleaned(cleaned: bool) -> Option<String> {
    cleaned
        .then(|| "where the shape is tighter than the distance the surface ran through itself and was cleaned".into())
}

/// `3 faces`.
pub(super) fn faces(n: usize) -> String {
    count(n, "face", "faces")
}
