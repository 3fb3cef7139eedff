//! What a vessel holds, and the liquid in it as a part.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::level::{Brim, LevelFault, Pool, Seed, Vessel};
use nimbet_kernel::{Mesh, Point, Progress, Topology, rims};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::examine::name_rims;
use crate::parameter::{Direction, Length, Position, Volume};
use crate::picks::triangle_under;
use crate::tool::{Given, Tool};
use crate::words::{Xyz, figure, millimetres, xyz};
use crate::{Made, Outcome, TradeError};

const UP: Xyz = [0.0, 0.0, 1.0];

fn up() -> Xyz {
    UP
}

/// A vessel: a place on its inside, and what is up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct VesselPick {
    /// A place on the inside, mm.
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// Where it was seen from: of a sheet that side is meant. Its outside when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Position>")]
    pub seen: Option<Xyz>,
    /// The direction that is up.
    #[serde(default = "up")]
    #[schemars(with = "Direction")]
    pub up: Xyz,
}

/// How far a vessel is filled.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum FillTo {
    /// To a height above its deepest place, mm.
    Depth(#[schemars(with = "Length")] f64),
    /// With a volume, mm³.
    Volume(#[schemars(with = "Volume")] f64),
    /// Until it runs over.
    Brim,
}

/// Where a vessel runs over.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Spill {
    /// The height above the deepest place, mm.
    pub depth: f64,
    /// Where; none of a void closed all round.
    pub at: Option<Xyz>,
    /// In words: `runs out through R2 at 31 mm`.
    pub text: String,
    /// What it holds up to there, mm³.
    pub volume: f64,
}

/// What a vessel holds.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Capacity {
    /// The height of the liquid above the deepest place, mm.
    pub depth: f64,
    /// The liquid, mm³.
    pub volume: f64,
    /// The area of its surface, mm².
    pub area: f64,
    /// The outlines of its surface, mm.
    pub outlines: Vec<Vec<Xyz>>,
    /// The height of the deepest place along the upward direction, mm.
    pub bottom: f64,
    /// Where it runs over.
    pub spill: Spill,
    /// Whether more was asked for than it holds.
    pub over: bool,
}

/// A vessel as far as it need not be looked at again for another level.
#[derive(Clone, Debug, PartialEq)]
pub struct KnownVessel {
    seed: Seed,
    brim: Brim,
    spill: Spill,
}

impl VesselPick {
    fn seed(&self, mesh: &Mesh) -> Result<Seed, TradeError> {
        let triangle = triangle_under(mesh, &triangle_bvh(mesh), self.at, "the inside of the vessel")?;
        let seen = self.seen.map_or(Point::ZERO, |s| Point::from_array(s) - Point::from_array(self.at));
        Ok(Seed { triangle: triangle as u32, back: mesh.area_vector(triangle).dot(seen) < 0.0 })
    }

    fn told(&self, fault: LevelFault) -> TradeError {
        match fault {
            LevelFault::NoWay => TradeError::refused("the upward direction must not be zero", vec![]),
            LevelFault::NoVessel => TradeError::refused(
                "this place holds no liquid: what is poured here runs off. Pick the inside of a vessel, or another upward \
                 direction",
                vec![Point::from_array(self.at)],
            ),
            LevelFault::Lid(e) => {
                TradeError::refused(format!("the surface of the liquid could not be made: {e}"), vec![])
            }
            LevelFault::Mesh(m) => m.into(),
            LevelFault::Cancelled(c) => c.into(),
        }
    }

    /// Finds the vessel and where it runs over.
    ///
    /// # Errors
    /// [`TradeError`] with the place where it holds nothing.
    pub fn find(&self, mesh: &Mesh, progress: &Progress) -> Result<KnownVessel, TradeError> {
        let up = Point::from_array(self.up);
        let vessel = Vessel::new(mesh, self.seed(mesh)?, up, progress).map_err(|e| self.told(e))?;
        let brim = vessel.brim().clone();
        let depth = brim.level - vessel.bottom();
        let volume = vessel.pool(brim.level).map_or(0.0, |p| p.volume);
        let rim = brim.at.filter(|_| brim.at_rim).and_then(|at| rim_at(mesh, at));
        let text = match (&rim, brim.at) {
            (Some(rim), _) => format!("runs out through {rim} at {}", millimetres(depth)),
            (None, Some(_)) => format!("runs over at {}", millimetres(depth)),
            (None, None) => format!("a void, full at {}", millimetres(depth)),
        };
        let spill = Spill { depth, at: brim.at.map(xyz), text, volume };
        Ok(KnownVessel { seed: vessel.seed(), brim, spill })
    }

    /// What a vessel holds at a level.
    ///
    /// # Errors
    /// [`TradeError`].
    pub fn filled(
        &self,
        mesh: &Mesh,
        known: &KnownVessel,
        to: FillTo,
        progress: &Progress,
    ) -> Result<Capacity, TradeError> {
        let vessel = self.vessel(mesh, known)?;
        let (bottom, spill) = (vessel.bottom(), known.spill.clone());
        let (level, over) = self.level(&vessel, known, to, progress)?;
        let pool = vessel.pool(level);
        let Pool { level, volume, area, outlines } =
            pool.unwrap_or(Pool { level: bottom, volume: 0.0, area: 0.0, outlines: vec![] });
        let outlines = outlines.into_iter().map(|o| o.into_iter().map(xyz).collect()).collect();
        Ok(Capacity { depth: level - bottom, volume, area, outlines, bottom, spill, over })
    }

    fn vessel<'a>(&self, mesh: &'a Mesh, known: &KnownVessel) -> Result<Vessel<'a>, TradeError> {
        Vessel::known(mesh, known.seed, Point::from_array(self.up), known.brim.clone()).map_err(|e| self.told(e))
    }

    /// The level, and whether more was asked for than the vessel holds.
    fn level(
        &self,
        vessel: &Vessel<'_>,
        known: &KnownVessel,
        to: FillTo,
        progress: &Progress,
    ) -> Result<(f64, bool), TradeError> {
        let good = |x: f64| x >= 0.0 && x.is_finite();
        match to {
            FillTo::Depth(depth) if good(depth) => {
                let level = vessel.bottom() + depth;
                Ok((level, level > known.brim.level + 1e-9 * depth))
            }
            FillTo::Volume(volume) if good(volume) => {
                Ok((vessel.level_of(volume, progress)?, volume > known.spill.volume * (1.0 + 1e-9)))
            }
            FillTo::Brim => Ok((known.brim.level, false)),
            _ => Err(TradeError::refused("fill to a depth or with a volume of 0 or more", vec![])),
        }
    }
}

/// The name of the rim through a place.
fn rim_at(mesh: &Mesh, at: Point) -> Option<String> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let (chains, facts) = name_rims(mesh, rims::rims(&topology));
    let through = chains.iter().position(|c| c.points.iter().any(|p| mesh.points()[*p as usize] == at))?;
    facts.get(through).map(|f| f.name.clone())
}

/// Parameters of `weigh.fill`: the liquid in a vessel as a part of its own.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Fill {
    /// The vessel.
    pub vessel: VesselPick,
    /// How far it is filled.
    pub to: FillTo,
}

impl Tool for Fill {
    const KIND: &'static str = "weigh.fill";
    const WHAT: &'static str = "The liquid in a vessel, as a part of its own.";

    fn title(&self) -> String {
        match self.to {
            FillTo::Depth(depth) => format!("Fill to {}", millimetres(depth)),
            FillTo::Volume(volume) => format!("Fill with {} ml", figure(volume / 1000.0)),
            FillTo::Brim => "Fill to the brim".into(),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let known = self.vessel.find(mesh, &progress.stage(0.0, 0.5))?;
        let vessel = self.vessel.vessel(mesh, &known)?;
        let (level, over) = self.vessel.level(&vessel, &known, self.to, &progress.stage(0.5, 0.8))?;
        let liquid = vessel.body(level).map_err(|e| match e {
            LevelFault::NoVessel => TradeError::nothing("nothing would be in the vessel"),
            other => self.vessel.told(other),
        })?;
        let volume = vessel.pool(level).map_or(0.0, |p| p.volume);
        let depth = level.min(known.brim.level) - vessel.bottom();
        let mut outcome = Outcome::of(
            mesh.clone(),
            format!(
                "the liquid as a part of its own: {} ml, {} deep; {}",
                figure(volume / 1000.0),
                millimetres(depth),
                known.spill.text
            ),
        );
        if over {
            outcome.left.push(format!("the vessel holds no more than {} ml", figure(known.spill.volume / 1000.0)));
        }
        outcome.more = vec![Made::of(liquid, "Filling")];
        Ok(outcome)
    }
}
