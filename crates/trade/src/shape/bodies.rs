//! `shape.body`: a body to work with, as a part beside the others.

use std::f64::consts::TAU;

use nimbet_kernel::shapes::{ball, block, turned};
use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, default_tolerance, group_faces};
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

use crate::budget::{Extent, around};
use crate::parameter::{Length, LengthOrNone, Position, Size};
use crate::solids::volume;
use crate::tool::{Begin, Entry, Given, Needs, Tool, to_digits};
use crate::words::Xyz;
use crate::{Made, Outcome, TradeError};

/// What body. All measures are mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum BodyShape {
    /// A block about its middle.
    Block {
        /// Along x, y and z.
        #[schemars(with = "Size")]
        size: Xyz,
        /// The radius of its edges; 0 leaves them sharp.
        #[serde(default)]
        #[schemars(title = "Radius of its edges", with = "LengthOrNone")]
        rounded: f64,
        /// Whether all edges are round; else only the upright ones.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        #[schemars(title = "All edges, not only the upright ones", extend("when" = { "/body/block/rounded": true }))]
        all_edges: bool,
    },
    /// A cylinder, cone or tube that stands upright on its foot.
    Drum {
        /// The diameter at the foot.
        #[schemars(with = "Length")]
        diameter: f64,
        /// The diameter at the top; as at the foot when absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(title = "Diameter at the top", with = "Option<LengthOrNone>", extend("empty" = "the same"))]
        top: Option<f64>,
        /// The height.
        #[schemars(with = "Length")]
        height: f64,
        /// The diameter of its bore; 0 for none.
        #[serde(default)]
        #[schemars(with = "LengthOrNone")]
        bore: f64,
    },
    /// A ball.
    Ball {
        /// Its diameter.
        #[schemars(with = "Length")]
        diameter: f64,
    },
    /// A torus that lies flat.
    Ring {
        /// The diameter of its middle line.
        #[schemars(title = "Diameter of the middle line", with = "Length")]
        diameter: f64,
        /// The diameter of its section.
        #[schemars(with = "Length")]
        thickness: f64,
    },
    /// A block whose top slopes down to its foot along x.
    Wedge {
        /// Along x, y and z.
        #[schemars(with = "Size")]
        size: Xyz,
    },
}

impl BodyShape {
    /// About how many triangles it takes within a chord.
    fn triangles(&self, chord: f64) -> f64 {
        let round = |diameter: f64| around(diameter * 0.5, chord);
        match self {
            Self::Block { rounded, all_edges: true, .. } => 12.0 + round(rounded * 2.0).powi(2),
            Self::Block { rounded, .. } => 12.0 + 4.0 * round(rounded * 2.0),
            Self::Drum { diameter, top, .. } => 8.0 * round(diameter.max(top.unwrap_or(0.0))),
            Self::Ball { diameter } => round(*diameter).powi(2),
            Self::Ring { diameter, thickness } => 2.0 * round(diameter + thickness) * round(*thickness),
            Self::Wedge { .. } => 8.0,
        }
    }
}

/// Parameters of `shape.body`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct AddBody {
    /// What.
    pub body: BodyShape,
    /// Where its middle, or the middle of its foot, is, mm.
    #[serde(default)]
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// The farthest its round faces may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn default_chord() -> f64 {
    0.02
}

/// The segments of a circle that keep a chord's sag within a tolerance; a multiple of four.
fn segments(radius: f64, chord: f64) -> usize {
    /// So that a round side turns by less at an edge than parts faces, and stays one face.
    const LEAST: f64 = 16.0;
    (around(radius, chord).max(LEAST) / 4.0).ceil() as usize * 4
}

/// A body to begin with, by its size: a third of the part, in its middle.
fn added(b: &Begin<'_>, body: fn(f64) -> Value) -> Value {
    let largest = b.bounds().1.into_iter().fold(0.0, f64::max);
    let size = to_digits(if b.seen.is_some() { largest / 3.0 } else { 10.0 }, 1);
    json!({ "body": body(if size > 0.0 { size } else { 10.0 }), "at": b.middle(), "chord": b.chord })
}

impl Tool for AddBody {
    const KIND: &'static str = "shape.body";
    const WHAT: &'static str = "Add a body to work with, as a part of its own.";
    const ENTRIES: &'static [Entry] = &[
        Entry {
            key: "block",
            name: "Block",
            hint: "With sharp or round edges",
            group: "Bodies by their figures",
            words: &["box", "cube", "cuboid", "primitive"],
            needs: Needs::Bench,
            mark: "/body/block",
            start: |b| added(b, |s| json!({ "block": { "size": [s, s, s], "rounded": 0 } })),
        },
        Entry {
            key: "drum",
            name: "Drum",
            hint: "Cylinder, cone or tube",
            group: "Bodies by their figures",
            words: &["cylinder", "cone", "tube", "pipe", "primitive"],
            needs: Needs::Bench,
            mark: "/body/drum",
            start: |b| added(b, |s| json!({ "drum": { "diameter": s, "height": s, "bore": 0 } })),
        },
        Entry {
            key: "ball",
            name: "Ball",
            hint: "By its diameter",
            group: "Bodies by their figures",
            words: &["sphere", "primitive"],
            needs: Needs::Bench,
            mark: "/body/ball",
            start: |b| added(b, |s| json!({ "ball": { "diameter": s } })),
        },
        Entry {
            key: "ring",
            name: "Ring",
            hint: "A torus",
            group: "Bodies by their figures",
            words: &["torus", "doughnut", "primitive"],
            needs: Needs::Bench,
            mark: "/body/ring",
            start: |b| added(b, |s| json!({ "ring": { "diameter": s, "thickness": s / 4.0 } })),
        },
        Entry {
            key: "wedge",
            name: "Wedge",
            hint: "A block that slopes down to its foot",
            group: "Bodies by their figures",
            words: &["prism", "ramp", "primitive"],
            needs: Needs::Bench,
            mark: "/body/wedge",
            start: |b| added(b, |s| json!({ "wedge": { "size": [s, s, s] } })),
        },
    ];

    fn title(&self) -> String {
        format!("Add a {}", self.word().to_lowercase())
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        parts.iter().map(|p| p.triangles).sum::<f64>() + self.body.triangles(self.chord)
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let made = self.make(progress)?;
        let done = format!("added a {} of {}", self.word().to_lowercase(), volume(&made));
        Ok(Outcome { more: vec![Made::plain(made, self.word())], ..Outcome::of(mesh.clone(), done) })
    }
}

impl AddBody {
    fn word(&self) -> &'static str {
        match self.body {
            BodyShape::Block { .. } => "Block",
            BodyShape::Drum { .. } => "Drum",
            BodyShape::Ball { .. } => "Ball",
            BodyShape::Ring { .. } => "Ring",
            BodyShape::Wedge { .. } => "Wedge",
        }
    }

    fn make(&self, progress: &Progress) -> Result<Mesh, TradeError> {
        let chord = self.chord;
        let raw = match &self.body {
            BodyShape::Block { size, rounded, all_edges } => {
                let size = Point::from_array(*size);
                let least = if *all_edges { size.min_element() } else { size.x.min(size.y) };
                if *rounded * 2.0 >= least {
                    let why = if *all_edges { "width, depth and height" } else { "width and depth" };
                    return Err(TradeError::refused(
                        format!("the radius must be less than half the block's {why}"),
                        vec![],
                    ));
                }
                if *rounded > 0.0 { rounded_block(size, *rounded, *all_edges, chord) } else { block(size * -0.5, size) }
            }
            BodyShape::Drum { diameter, top, height, bore } => {
                let (foot, height) = (*diameter * 0.5, *height);
                let top = top.unwrap_or(*diameter) * 0.5;
                let hole = bore * 0.5;
                if !(hole < foot && (hole < top || (top == 0.0 && hole == 0.0))) {
                    return Err(TradeError::refused("the bore must be narrower than the drum at both ends", vec![]));
                }
                let mut profile = vec![(hole, 0.0), (foot, 0.0)];
                profile.extend([(top, height), (hole, height)]);
                if hole > 0.0 {
                    profile.push((hole, 0.0));
                }
                profile.dedup();
                turned(&profile, segments(foot.max(top), chord))
            }
            BodyShape::Ball { diameter } => {
                let radius = *diameter * 0.5;
                ball(radius, segments(radius, chord) / 2)
            }
            BodyShape::Ring { diameter, thickness } => {
                let (major, minor) = (*diameter * 0.5, *thickness * 0.5);
                if minor >= major {
                    return Err(TradeError::refused(
                        "the ring is thicker than it is wide, so it would cross itself",
                        vec![],
                    ));
                }
                let round = segments(minor, chord);
                let profile: Vec<(f64, f64)> = (0..=round)
                    .map(|k| (k % round) as f64 / round as f64 * TAU)
                    .map(|a| (major + minor * a.cos(), minor * a.sin()))
                    .collect();
                turned(&profile, segments(major + minor, chord))
            }
            BodyShape::Wedge { size } => {
                let size = Point::from_array(*size);
                let (points, triangles, faces) = block(size * -0.5, size).into_parts();
                // The upper edge at the far end comes down onto the lower one.
                let low = points.iter().map(|p| if p.x > 0.0 { Point::new(p.x, p.y, -size.z * 0.5) } else { *p });
                let folded = Mesh::new(low.collect(), triangles, faces)?;
                let welded =
                    nimbet_kernel::weld::weld_mesh(folded.points(), folded.triangles(), folded.face_of().to_vec())?;
                let real = |t: usize| welded.area_vector(t).length() > 0.0;
                welded.retain_triangles(real)
            }
        };
        let at = Point::from_array(self.at);
        if !at.is_finite() {
            return Err(TradeError::refused("the place must be three lengths", vec![]));
        }
        let placed = raw.map_points(|p| p + at)?;
        let tolerance = default_tolerance(&Aabb::of(placed.points().iter().copied())).min(chord * 0.1).max(1e-9);
        Ok(group_faces(placed, Grouping { angle: DEFAULT_ANGLE, tolerance }, progress)?)
    }
}

/// A block about its middle with round upright edges, or all edges round.
fn rounded_block(size: Point, radius: f64, all_edges: bool, chord: f64) -> Mesh {
    let quarter = segments(radius, chord) / 4;
    let inner = size * 0.5 - Point::splat(radius);
    // Outlines from the foot to the top, each by its height and the radius of its corners.
    let levels: Vec<(f64, f64)> = if all_edges {
        let half = |up: f64| {
            (0..=quarter).map(move |k| {
                let (sin, cos) = (k as f64 / quarter as f64 * TAU / 4.0).sin_cos();
                (up * (inner.z + radius * sin), if k == quarter { 0.0 } else { radius * cos })
            })
        };
        half(-1.0).rev().chain(half(1.0)).collect()
    } else {
        vec![(size.z * -0.5, radius), (size.z * 0.5, radius)]
    };
    let corners = [(1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0), (1.0, -1.0)];
    let mut points = Vec::new();
    for (z, r) in levels.iter().copied() {
        for (corner, (x, y)) in corners.into_iter().enumerate() {
            points.extend((0..=quarter).map(|k| {
                let a = (corner as f64 + k as f64 / quarter as f64) * TAU / 4.0;
                Point::new(x * inner.x + r * a.cos(), y * inner.y + r * a.sin(), z)
            }));
        }
    }
    let n = 4 * (quarter as u32 + 1);
    let top = (levels.len() as u32 - 1) * n;
    let sides = (0..levels.len() as u32 - 1).flat_map(|level| {
        let at = level * n;
        (0..n).flat_map(move |k| {
            let next = (k + 1) % n;
            [[at + k, at + next, at + n + next], [at + k, at + n + next, at + n + k]]
        })
    });
    // The outlines are convex: fans close them.
    let ends = (1..n - 1).flat_map(|k| [[0, k + 1, k], [top, top + k, top + k + 1]]);
    // Where the corners have no radius their points are one, and triangles between them nothing.
    let triangles: Vec<[u32; 3]> = sides.chain(ends).collect();
    let faces = vec![FaceId(0); triangles.len()];
    nimbet_kernel::weld::weld_mesh(&points, &triangles, faces)
        .map(|m| m.retain_triangles(|t| m.triangles()[t].iter().collect::<std::collections::HashSet<_>>().len() == 3))
        .unwrap_or_default()
}
