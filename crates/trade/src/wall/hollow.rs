//! `wall.hollow`: a closed solid gets a void, with drains.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::offset::{grow, grow_sampled};
use nimbet_kernel::shapes::turned;
use nimbet_kernel::thickness::{Gauge, Side, Way};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{FaceId, Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::grow::refuse_open;
use super::making::{CornerStyle, RimStyle, cleaned, closing, how, lost_faces, moved_cost, told};
use crate::budget::{Cost, Extent};
use crate::parameter::{Length, LengthOrNone, Position};
use crate::picks::triangle_under;
use crate::solids::{arranged, body, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, millimetres};
use crate::{Made, Outcome, TradeError};

/// A hole through the wall, for resin, powder or core sand to get out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Drain {
    /// A point of the outside, mm; the hole is square to the surface there.
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// Its diameter, mm.
    #[schemars(with = "Length")]
    pub diameter: f64,
    /// A plug for it is made as a part, with so much to spare all round, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<LengthOrNone>")]
    pub plug: Option<f64>,
}

/// Parameters of `wall.hollow`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hollow {
    /// The wall that is left, mm.
    #[schemars(with = "Length")]
    pub wall: f64,
    /// Corners of the void that stand out into the wall.
    #[serde(default)]
    #[schemars(extend("when" = { "/sampled": false }))]
    pub corners: CornerStyle,
    /// How far arcs may be off a true circle, mm; by the size of the part when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Chord tolerance", with = "Option<Length>", extend("empty" = "by the part's size", "folded" = true))]
    pub chord: Option<f64>,
    /// Sampled on a grid at this resolution, mm, instead of moved: for scans rougher than the wall is thick.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Sampled at", with = "Option<Length>", extend("empty" = "not", "folded" = true, "hint" = "On a grid of this step: for scans rougher than the wall"))]
    pub sampled: Option<f64>,
    /// Holes through the wall.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub drains: Vec<Drain>,
}

impl Tool for Hollow {
    const KIND: &'static str = "wall.hollow";
    const WHAT: &'static str = "Give a solid a void, with drains.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "hollow",
        name: "Hollow",
        hint: "A solid gets a void, with drains through the wall",
        group: "Of a solid",
        words: &["shell", "void", "drain", "resin", "cavity"],
        needs: Needs::Sealed,
        mark: "",
        start: |b| json!({ "wall": b.wall(), "corners": "sharp" }),
    }];

    fn title(&self) -> String {
        format!("Hollow, wall {}", millimetres(self.wall))
    }

    fn cost(&self, parts: &[Extent]) -> Cost {
        moved_cost(parts, self.sampled, 1.0)
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let wall = self.wall;
        refuse_open(mesh)?;
        let mut outcome = Outcome::of(mesh.clone(), String::new());
        outcome.done.clear();
        let void = match self.sampled {
            Some(resolution) => {
                let (void, off) = grow_sampled(mesh, -wall, resolution, &progress.stage(0.0, 0.6)).map_err(told)?;
                outcome.done.push(format!("sampled: the wall is off by {} at most", millimetres(off)));
                void
            }
            None => {
                let how = how(mesh, &[-wall], self.corners, RimStyle::Square, self.chord)?;
                let void = grow(mesh, &|_| -wall, &how, &progress.stage(0.0, 0.6)).map_err(told)?;
                outcome.done.extend(cleaned(void.cleaned));
                if void.cleaned {
                    let (notices, tight) = lost_faces(mesh, &void.mesh, void.moved, -wall, progress)?;
                    outcome.notices.extend(notices);
                    outcome.tight = tight;
                    outcome.notices.extend(closing(mesh, Side::Inside, wall, &progress.stage(0.6, 0.7))?);
                }
                void
            }
        };
        let saved = volume(&void.mesh);
        let mut inner = void.mesh;
        inner.reverse_triangles(|_| true);
        let first_new = mesh.next_face().0;
        let hollow = together(mesh, &inner, first_new)?;
        outcome.done.insert(0, format!("hollowed to a wall of {}: {saved} less", millimetres(wall)));
        outcome.mesh = self.drained(mesh, hollow, &mut outcome, &progress.stage(0.7, 1.0))?;
        if self.drains.is_empty() {
            outcome.left.push("the void has no drain: resin, powder or core sand stays in it".into());
        }
        Ok(outcome)
    }
}

impl Hollow {
    /// The hollow part with its drains.
    fn drained(
        &self,
        solid: &Mesh,
        hollow: Mesh,
        outcome: &mut Outcome,
        progress: &Progress,
    ) -> Result<Mesh, TradeError> {
        if self.drains.is_empty() {
            return Ok(hollow);
        }
        let bvh = triangle_bvh(solid);
        let inside = triangle_bvh(&hollow);
        let gauge = Gauge::new(&hollow, Side::Inside, f64::INFINITY);
        let (mut bores, mut plugs) = (Vec::new(), Vec::new());
        for drain in &self.drains {
            let diameter = drain.diameter;
            let at = Point::from_array(drain.at);
            triangle_under(solid, &bvh, drain.at, "the place of the drain")?;
            let t = triangle_under(&hollow, &inside, drain.at, "the place of the drain")?;
            let normal = hollow.area_vector(t).normalize_or_zero();
            let across = gauge.at(t, at, Way::Ray).map_or(self.wall, |a| a.across);
            if across > self.wall * 3.0 {
                let why = format!(
                    "there is no void behind this place: the part is {} thick here; put the drain elsewhere",
                    millimetres(across)
                );
                return Err(TradeError::refused(why, vec![at]));
            }
            // Past both mouths, also where the surface slopes under it.
            let over = diameter * 0.5 + self.wall * 0.5;
            bores.push(drum(at - normal * (across + over), normal, diameter * 0.5, across + 2.0 * over, self.wall)?);
            if let Some(clearance) = drain.plug {
                if !(clearance >= 0.0 && clearance * 2.0 < diameter) {
                    let why = "the plug must have less to spare than half the drain";
                    return Err(TradeError::refused(why, vec![at]));
                }
                plugs.push(drum(at - normal * across, normal, diameter * 0.5 - clearance, across, self.wall)?);
            }
        }
        outcome.more.extend(Made::each_of(plugs, "Plug", 1));
        let inputs: Vec<&Mesh> = std::iter::once(&hollow).chain(&bores).collect();
        let all = arranged(&inputs, false, &|_| "the hollow part".into(), &progress.stage(0.0, 0.9))?;
        let made = body(&all, |w| w[0] > 0 && w[1..].iter().all(|w| *w <= 0), &progress.stage(0.9, 1.0))?;
        outcome.done.push(format!("{} through the wall", count(self.drains.len(), "drain", "drains")));
        Ok(made)
    }
}

/// Both in one, the second with new faces.
fn together(a: &Mesh, b: &Mesh, first_new: u32) -> Result<Mesh, TradeError> {
    let offset = a.points().len() as u32;
    let points = a.points().iter().chain(b.points()).copied().collect();
    let moved = b.triangles().iter().map(|t| t.map(|p| p + offset));
    let triangles = a.triangles().iter().copied().chain(moved).collect();
    let faces = a.face_of().iter().copied().chain(b.face_of().iter().map(|f| FaceId(f.0 + first_new))).collect();
    Ok(Mesh::new(points, triangles, faces)?)
}

/// A drum from a point on along a direction; its facets as fine as a hundredth of the wall.
fn drum(from: Point, along: Point, radius: f64, length: f64, wall: f64) -> Result<Mesh, TradeError> {
    let Some(frame) = PlaneFrame::new(from, along) else {
        return Err(TradeError::refused("the surface has no direction at the place of the drain", vec![from]));
    };
    let segments = (std::f64::consts::PI / (1.0 - (wall * 0.01 / radius).min(0.5)).acos()).ceil().clamp(16.0, 256.0);
    let upright = turned(&[(0.0, 0.0), (radius, 0.0), (radius, length), (0.0, length)], segments as usize);
    Ok(upright.map_points(|p| frame.lift([p.x, p.y]) + along * p.z)?)
}
