//! Generic materials with their densities.
//!
//! Densities are typical handbook values of the generic material at room temperature, rounded to what a weighing can use;
//! a supplier's data sheet goes before them. Sources are listed with the table in docs/materials.md.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

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
    /// Poured in and out.
    Liquid,
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
    /// By how much what is cast is smaller than its pattern, percent of length; nought where that does not arise.
    pub shrinkage: f64,
    /// What it looks like, as `#RRGGBB`.
    pub colour: &'static str,
}

/// A material of a house's own. What is kept with a part, so that it means the same wherever the job goes.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnMaterial {
    /// What people call it.
    pub name: String,
    /// Density, g/cm³.
    pub density: f64,
    /// By how much what is cast is smaller than its pattern, percent of length.
    #[serde(default)]
    pub shrinkage: f64,
    /// What a gram costs, in the money of the house.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<f64>,
    /// What it looks like, as `#RRGGBB`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
}

impl OwnMaterial {
    /// What is wrong with it, in plain words.
    ///
    /// # Errors
    /// The first thing that cannot be so.
    pub fn check(&self) -> Result<(), String> {
        let colour = |c: &String| c.len() == 7 && c.starts_with('#') && c[1..].chars().all(|x| x.is_ascii_hexdigit());
        if self.name.trim().is_empty() || self.name.chars().count() > 80 || !crate::words::is_plain(&self.name) {
            Err("a material needs a name of at most 80 characters, none of which control or turn text".into())
        } else if !(self.density > 0.0 && self.density < 30.0) {
            Err(format!("the density of {} must be above 0 and below 30 g/cm³", self.name))
        } else if !(0.0..25.0).contains(&self.shrinkage) {
            Err(format!("the shrinkage of {} must be from 0 to 25 percent", self.name))
        } else if self.price.is_some_and(|p| !(0.0..=1e9).contains(&p)) {
            Err(format!("the price of {} must be 0 or more", self.name))
        } else if !self.colour.iter().all(colour) {
            Err(format!("the colour of {} must be written as #RRGGBB", self.name))
        } else {
            Ok(())
        }
    }
}

const fn m(
    key: &'static str,
    name: &'static str,
    group: MaterialGroup,
    [density, shrinkage]: [f64; 2],
    colour: &'static str,
) -> Material {
    Material { key, name, group, density, shrinkage, colour }
}

/// All materials.
pub const MATERIALS: &[Material] = &[
    m("bronze-tin-10", "Tin bronze, 10 % tin", MaterialGroup::CastingMetal, [8.78, 1.5], "#B08D57"),
    m("bronze-aluminium", "Aluminium bronze, 10 % aluminium", MaterialGroup::CastingMetal, [7.6, 1.9], "#C9A24B"),
    m("brass-yellow", "Yellow brass, 35 % zinc", MaterialGroup::CastingMetal, [8.47, 1.6], "#D1B060"),
    m("copper", "Copper", MaterialGroup::CastingMetal, [8.96, 1.9], "#B87350"),
    m("silver-925", "Sterling silver", MaterialGroup::CastingMetal, [10.36, 1.8], "#C9CCCE"),
    m("gold-18-yellow", "Gold, 18 carat yellow", MaterialGroup::CastingMetal, [15.5, 1.5], "#D9B44A"),
    m("zinc-casting", "Zinc casting alloy, 4 % aluminium", MaterialGroup::CastingMetal, [6.6, 1.1], "#9BA1A6"),
    m("aluminium-silicon", "Aluminium casting alloy, 7 % silicon", MaterialGroup::CastingMetal, [2.68, 1.3], "#B9BEC2"),
    m("iron-grey", "Grey cast iron", MaterialGroup::CastingMetal, [7.15, 1.0], "#6F7376"),
    m("steel-carbon", "Carbon steel", MaterialGroup::CastingMetal, [7.85, 2.0], "#7D858B"),
    m(
        "steel-stainless",
        "Stainless steel, 18 % chromium 10 % nickel",
        MaterialGroup::CastingMetal,
        [7.9, 2.2],
        "#A5ABB0",
    ),
    m("pewter", "Pewter, lead-free", MaterialGroup::CastingMetal, [7.28, 0.5], "#A9AFB2"),
    m("pla", "PLA", MaterialGroup::PrintingPolymer, [1.24, 0.0], "#DAD3C2"),
    m("petg", "PETG", MaterialGroup::PrintingPolymer, [1.27, 0.0], "#BFD2D6"),
    m("abs", "ABS", MaterialGroup::PrintingPolymer, [1.04, 0.0], "#D8D2C4"),
    m("asa", "ASA", MaterialGroup::PrintingPolymer, [1.07, 0.0], "#C7C9C2"),
    m("pa12", "Polyamide 12, sintered", MaterialGroup::PrintingPolymer, [1.01, 0.0], "#E3E1DA"),
    m("tpu", "TPU", MaterialGroup::PrintingPolymer, [1.21, 0.0], "#A8B7A4"),
    m("resin-standard", "Acrylate resin, cured", MaterialGroup::Resin, [1.18, 0.0], "#C6BEDA"),
    m("resin-castable", "Castable resin, cured", MaterialGroup::Resin, [1.12, 0.0], "#9CB58E"),
    m("wax-pattern", "Pattern wax", MaterialGroup::Pattern, [0.97, 0.8], "#7F9F8B"),
    m("wax-printed", "Printing wax", MaterialGroup::Pattern, [0.95, 0.3], "#8FA9BF"),
    m("water", "Water", MaterialGroup::Liquid, [1.0, 0.0], "#6FA3C2"),
];

/// The material with the given key.
pub fn material(key: &str) -> Option<&'static Material> {
    MATERIALS.iter().find(|m| m.key == key)
}
