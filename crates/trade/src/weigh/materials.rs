//! Generic materials with their densities.
//!
//! Densities are typical handbook values of the generic material at room temperature, rounded to what a weighing can use;
//! a supplier's data sheet goes before them. Sources are listed with the table in docs/materials.md.

use schemars::JsonSchema;
use serde::Serialize;

/// What a material is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum MaterialGroup {
    /// Poured into a mould.
    CastingMetal,
    /// Extruded or sintered.
    PrintingPolymer,
    /// Cured by light.
    Resin,
    /// For patterns that are burnt or melted out.
    Pattern,
}

/// A material.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, JsonSchema)]
pub struct Material {
    /// The name in recipes and in the ledger.
    pub key: &'static str,
    /// The name people read.
    pub name: &'static str,
    /// What it is for.
    pub group: MaterialGroup,
    /// Density, g/cm³.
    pub density: f64,
}

const fn m(key: &'static str, name: &'static str, group: MaterialGroup, density: f64) -> Material {
    Material { key, name, group, density }
}

/// All materials.
pub const MATERIALS: &[Material] = &[
    m("bronze-tin-10", "Tin bronze, 10 % tin", MaterialGroup::CastingMetal, 8.78),
    m("bronze-aluminium", "Aluminium bronze, 10 % aluminium", MaterialGroup::CastingMetal, 7.6),
    m("brass-yellow", "Yellow brass, 35 % zinc", MaterialGroup::CastingMetal, 8.47),
    m("copper", "Copper", MaterialGroup::CastingMetal, 8.96),
    m("silver-925", "Sterling silver", MaterialGroup::CastingMetal, 10.36),
    m("gold-18-yellow", "Gold, 18 carat yellow", MaterialGroup::CastingMetal, 15.5),
    m("zinc-casting", "Zinc casting alloy, 4 % aluminium", MaterialGroup::CastingMetal, 6.6),
    m("aluminium-silicon", "Aluminium casting alloy, 7 % silicon", MaterialGroup::CastingMetal, 2.68),
    m("iron-grey", "Grey cast iron", MaterialGroup::CastingMetal, 7.15),
    m("steel-carbon", "Carbon steel", MaterialGroup::CastingMetal, 7.85),
    m("steel-stainless", "Stainless steel, 18 % chromium 10 % nickel", MaterialGroup::CastingMetal, 7.9),
    m("pewter", "Pewter, lead-free", MaterialGroup::CastingMetal, 7.28),
    m("pla", "PLA", MaterialGroup::PrintingPolymer, 1.24),
    m("petg", "PETG", MaterialGroup::PrintingPolymer, 1.27),
    m("abs", "ABS", MaterialGroup::PrintingPolymer, 1.04),
    m("asa", "ASA", MaterialGroup::PrintingPolymer, 1.07),
    m("pa12", "Polyamide 12, sintered", MaterialGroup::PrintingPolymer, 1.01),
    m("tpu", "TPU", MaterialGroup::PrintingPolymer, 1.21),
    m("resin-standard", "Acrylate resin, cured", MaterialGroup::Resin, 1.18),
    m("resin-castable", "Castable resin, cured", MaterialGroup::Resin, 1.12),
    m("wax-pattern", "Pattern wax", MaterialGroup::Pattern, 0.97),
    m("wax-printed", "Printing wax", MaterialGroup::Pattern, 0.95),
];

/// The material with the given key.
pub fn material(key: &str) -> Option<&'static Material> {
    MATERIALS.iter().find(|m| m.key == key)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn keys_are_unique_and_densities_plausible() {
        let mut keys: Vec<_> = MATERIALS.iter().map(|m| m.key).collect();
        keys.sort_unstable();
        keys.dedup();
        assert_eq!(keys.len(), MATERIALS.len());
        for m in MATERIALS {
            let range = match m.group {
                MaterialGroup::CastingMetal => 2.0..20.0,
                MaterialGroup::Pattern => 0.85..1.1,
                _ => 0.9..1.5,
            };
            assert!(range.contains(&m.density), "{}", m.name);
        }
    }
}
