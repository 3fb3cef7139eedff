//! Volume, centre of mass and inertia of a part, and why there are none.

use nimbet_kernel::measure::Measure;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::examine::Figures;
use crate::words::{Xyz, xyz};

/// What a part weighs per density. Everything but the area is only there for a sealed part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Weighing {
    /// Enclosed volume, mm³.
    pub volume: Option<f64>,
    /// Surface area, mm².
    pub area: f64,
    /// Centre of mass, mm.
    pub centre: Option<Xyz>,
    /// Inertia about the centre of mass divided by density, mm⁵: xx, yy, zz, xy, yz, zx.
    pub inertia: Option<[f64; 6]>,
    /// The axes through the centre of mass about which the part turns freely, the one with the least inertia first.
    #[serde(default)]
    pub principal: Option<[PrincipalAxis; 3]>,
}

/// An axis about which a part turns freely.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PrincipalAxis {
    /// Its direction, of length 1.
    pub way: Xyz,
    /// Inertia about it divided by density, mm⁵.
    pub inertia: f64,
}

impl Weighing {
    pub(crate) fn new(figures: &Figures, measure: &Measure) -> Self {
        let solid = figures.volume.is_some();
        Self {
            volume: figures.volume,
            area: measure.area,
            centre: solid.then(|| xyz(measure.centroid)),
            inertia: solid.then_some(measure.inertia),
            principal: solid
                .then(|| measure.principal().map(|(way, inertia)| PrincipalAxis { way: xyz(way), inertia })),
        }
    }

    /// Mass in grams at a density, g/cm³.
    pub fn mass(&self, density: f64) -> Option<f64> {
        const MM3_PER_CM3: f64 = 1000.0;
        self.volume.map(|v| v / MM3_PER_CM3 * density)
    }
}
