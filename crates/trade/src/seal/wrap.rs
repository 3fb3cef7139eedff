//! `seal.wrap`: a watertight skin round a part that is beyond repair.

use nimbet_kernel::deviation::deviation;
use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, default_tolerance, group_faces};
use nimbet_kernel::wrap::{WrapError, wrap, wrap_cost_of};
use nimbet_kernel::{Aabb, FaceId, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::{Cost, Extent};
use crate::parameter::Length;
use crate::tool::{Effect, Entry, Given, Needs, Tool};
use crate::words::{count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.wrap`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Wrap {
    /// The size of the cells the skin is drawn in, mm. Openings are spanned; what is thinner is lost.
    #[schemars(with = "Length")]
    pub resolution: f64,
}

impl Tool for Wrap {
    const KIND: &'static str = "seal.wrap";
    const WHAT: &'static str = "Make a watertight skin round what is beyond repair.";
    const KEEPS_FACES: bool = false;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "wrap",
        name: "Wrap",
        hint: "A watertight skin round what is beyond repair",
        group: "All at once",
        words: &["skin", "remesh", "voxel", "watertight"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "resolution": b.share(0.008) }),
    }];

    fn title(&self) -> String {
        format!("Wrap at {}", crate::words::millimetres(self.resolution))
    }

    fn cost(&self, parts: &[Extent]) -> Cost {
        /// Microseconds for a triangle of the part, for one of the skin, for a thousand cells, and until faces are given up where there
        /// are none; see docs/benchmarks.md.
        const PART: f64 = 3.0;
        const SKIN: f64 = 70.0;
        const CELLS: f64 = 30.0;
        const FACES: f64 = 1.5e6;
        let part = &parts[0];
        let skin = wrap_cost_of(Point::from_array(part.size), part.area, part.triangles as usize, self.resolution);
        let cells: f64 = skin.steps.iter().map(|s| *s as f64).product();
        let micros = FACES + part.triangles * PART + skin.triangles as f64 * SKIN + cells * 1e-3 * CELLS;
        Cost { triangles: skin.triangles as f64, bytes: skin.bytes, seconds: micros * 1e-6 }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let skin = wrap(mesh, self.resolution, &progress.stage(0.0, 0.7)).map_err(|e| match e {
            WrapError::TooFine(finest) => TradeError::refused(
                format!(
                    "so fine a skin does not fit into memory; {} is about the finest for this part",
                    millimetres(finest)
                ),
                vec![],
            ),
            WrapError::Empty => TradeError::refused(
                "the part encloses nothing at this resolution: its openings are too large, or it is thinner than that",
                vec![],
            ),
            WrapError::Cancelled(c) => c.into(),
            WrapError::Mesh(m) => m.into(),
        })?;
        let tolerance = default_tolerance(&Aabb::of(skin.points().iter().copied())).max(self.resolution * 0.05);
        let skin = group_faces(skin, Grouping { angle: DEFAULT_ANGLE, tolerance }, &progress.stage(0.7, 0.8))?;
        // All of it is new.
        let first = mesh.next_face().0;
        let faces: Vec<u32> = skin.face_of().iter().map(|f| f.0 + first).collect();
        let skin = skin.regroup(|t| FaceId(faces[t]));
        let off = deviation(&skin, mesh, &progress.stage(0.8, 0.9))?;
        let back = deviation(mesh, &skin, &progress.stage(0.9, 1.0))?;
        let done = vec![
            format!("made a skin of {}", count(skin.triangles().len(), "triangle", "triangles")),
            format!(
                "the skin lies within {} of the part, {} on average",
                millimetres(off.largest),
                millimetres(off.mean)
            ),
        ];
        let left = if back.largest > self.resolution {
            let [x, y, z] = back.at.to_array();
            vec![format!(
                "what came in lies up to {} from the skin, at {x:.2}, {y:.2}, {z:.2}: it was inside, or encloses nothing",
                millimetres(back.largest)
            )]
        } else {
            vec![]
        };
        Ok(Outcome { left, done, largest_move: off.largest, ..Outcome::of(skin, String::new()) })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}
