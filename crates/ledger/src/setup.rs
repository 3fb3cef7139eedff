//! How a job is set up: what is not done to parts, but says how they are made, weighed and looked at.

use std::collections::BTreeMap;

use nimbet_trade::Examination;
use nimbet_trade::fasten::ALLOWANCES;
use nimbet_trade::tool::Begin;
use nimbet_trade::wall::Making;
use nimbet_trade::weigh::{CutPlane, Measure, OwnMaterial};
use nimbet_trade::words::is_plain;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::SetMaterial;

/// The settings of a job. Stored as JSON; grows only by fields with defaults.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(default, deny_unknown_fields)]
pub struct Setup {
    /// The farthest round faces of new bodies may be from true, mm.
    pub chord: f64,
    /// How the parts are made, and what that asks of them.
    pub making: Making,
    /// Materials of the house's own, to choose from.
    pub materials: Vec<OwnMaterial>,
    /// What a gram of a material costs, by key, in the money of the house.
    pub prices: BTreeMap<String, f64>,
    /// The largest part that goes on the printer or into the flask, mm.
    pub bench: Option<[f64; 3]>,
    /// Cuts to look at.
    pub sections: Vec<NamedSection>,
    /// Measures kept as notes on the model.
    pub measures: Vec<NamedMeasure>,
}

/// A cut to look at.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct NamedSection {
    /// What people call it.
    pub name: String,
    /// Whether it cuts now.
    pub on: bool,
    /// Where.
    pub plane: CutPlane,
}

/// A measure kept as a note.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct NamedMeasure {
    /// What people call it.
    pub name: String,
    /// What is measured.
    pub measure: Measure,
}

impl Default for Setup {
    fn default() -> Self {
        Self {
            chord: 0.02,
            making: Making::default(),
            materials: vec![],
            prices: BTreeMap::new(),
            bench: None,
            sections: vec![],
            measures: vec![],
        }
    }
}

/// More of a list than this nobody looks through.
const MOST: usize = 200;

impl Setup {
    /// What is known when a step is begun on a part of some material.
    pub fn begin<'a>(&self, seen: Option<&'a Examination>, material: Option<&SetMaterial>) -> Begin<'a> {
        let process = self.making.figures().ok();
        let added = ALLOWANCES.iter().find(|a| a.process == self.making.process);
        Begin {
            seen,
            chord: self.chord,
            least_wall: process.map(|p| p.wall),
            added: added.map_or([0.0, 0.1, 0.05], |a| [a.bore, a.radial[1], a.axial[1]]),
            shrinkage: material.map_or(0.0, SetMaterial::shrinkage),
        }
    }

    /// What is wrong with it, in plain words.
    ///
    /// # Errors
    /// The first thing that cannot be so.
    pub fn check(&self) -> Result<(), String> {
        if !(1e-6..=1e6).contains(&self.chord) {
            return Err("the chord tolerance must be a length from 0.000001 mm to 1 km".into());
        }
        self.making.figures().map_err(|e| e.to_string())?;
        self.materials.iter().try_for_each(OwnMaterial::check)?;
        if let Some((key, _)) = self.prices.iter().find(|(_, p)| !(0.0..=1e9).contains(*p)) {
            return Err(format!("the price of {key} must be 0 or more"));
        }
        if self.bench.is_some_and(|b| b.iter().any(|x| !(*x > 0.0 && *x <= 1e7))) {
            return Err("the size of the bench must be three lengths above 0 mm".into());
        }
        let bad = |s: &&NamedSection| {
            let numbers = s.plane.at.iter().chain(&s.plane.normal).all(|x| x.abs() <= 1e9);
            !numbers || s.plane.normal == [0.0; 3]
        };
        if let Some(section) = self.sections.iter().find(bad) {
            return Err(format!("the section {} has no plane", section.name));
        }
        let names = self.sections.iter().map(|s| &s.name).chain(self.measures.iter().map(|m| &m.name));
        if names.into_iter().any(|name| name.chars().count() > 200 || !is_plain(name)) {
            return Err(
                "a section's or measure's name has at most 200 characters, none of which control or turn text".into()
            );
        }
        if [self.materials.len(), self.prices.len(), self.sections.len(), self.measures.len()].iter().any(|n| *n > MOST)
        {
            return Err(format!("a job keeps at most {MOST} materials, prices, sections or measures"));
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_is_told_and_what_was_stored_earlier_is_read() {
        let read = |text: &str| serde_json::from_str::<Setup>(text).unwrap();
        assert_eq!(read("{}"), Setup::default());
        assert_eq!(read(r#"{ "chord": 0.1 }"#).chord, 0.1);
        let wrong = [
            (r#"{ "chord": 0 }"#, "chord"),
            (r#"{ "chord": 1e308 }"#, "chord"),
            (r#"{ "bench": [1e300, 1, 1] }"#, "bench"),
            (r#"{ "materials": [{ "name": "Le\u202Ead", "density": 11 }] }"#, "turn text"),
            (r#"{ "making": { "process": "spells" } }"#, "spells"),
            (r#"{ "materials": [{ "name": "Lead", "density": 0 }] }"#, "Lead"),
            (r##"{ "materials": [{ "name": "Lead", "density": 11.3, "colour": "grey" }] }"##, "#RRGGBB"),
            (r#"{ "prices": { "copper": -1 } }"#, "copper"),
            (r#"{ "bench": [100, 0, 100] }"#, "bench"),
            (
                r#"{ "sections": [{ "name": "A", "on": true, "plane": { "at": [0, 0, 0], "normal": [0, 0, 0] } }] }"#,
                "A",
            ),
        ];
        for (text, named) in wrong {
            let why = read(text).check().unwrap_err();
            assert!(why.contains(named), "{text}: {why}");
        }
        assert_eq!(Setup::default().check(), Ok(()));
    }
}
