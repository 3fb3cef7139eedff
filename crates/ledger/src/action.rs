//! What a step can be: something done to a part by the trade, or by the ledger itself.

use nimbet_formats::LengthUnit;
use nimbet_trade::Operation;
use nimbet_trade::weigh::{OwnMaterial, ScalePattern};
use schemars::JsonSchema;
use serde::{Deserialize, Deserializer, Serialize};

use crate::hash::Hash;
use crate::history::PartId;

/// A step's kind and parameters. In JSON all kinds stand side by side, told apart by `kind`.
#[derive(Clone, Debug, PartialEq, Serialize, JsonSchema)]
#[serde(untagged)]
pub enum Action {
    /// Brings a file in as a new part.
    BringIn(BringIn),
    /// Chooses what a part is made of.
    SetMaterial(SetMaterial),
    /// Keeps the part as it is now as a further part, to fall back on.
    Keep(Keep),
    /// Does something to the part's mesh.
    Operation(Work),
}

/// An operation, and whether what it loses is kept. In JSON `keep_lost` stands among the operation's parameters.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Work {
    /// What is done.
    #[serde(flatten)]
    pub operation: Operation,
    /// Whether what is lost of the surface is kept as a part of its own.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub keep_lost: bool,
}

impl From<Operation> for Work {
    fn from(operation: Operation) -> Self {
        Self { operation, keep_lost: false }
    }
}

impl JsonSchema for Work {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Work".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let operation = generator.subschema_for::<Operation>();
        let keep = serde_json::json!({
            "description": "Whether what is lost of the surface is kept as a part of its own.",
            "type": "boolean",
        });
        let schema = generator.definitions_mut().get_mut(&*Operation::schema_name());
        let kinds = schema.and_then(|schema| schema.get_mut("oneOf")?.as_array_mut());
        for properties in kinds.into_iter().flatten().filter_map(|kind| kind.get_mut("properties")?.as_object_mut()) {
            properties.insert(KEEP_LOST.into(), keep.clone());
        }
        operation
    }

    fn inline_schema() -> bool {
        true
    }
}

const KEEP_LOST: &str = "keep_lost";

/// The unit of a file being brought in.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum UnitChoice {
    /// As the file says, or guessed from the size.
    #[default]
    Auto,
    /// As the file says, or by its size where that leaves no doubt; else it is not brought in.
    Ask,
    /// Millimetres.
    Millimetre,
    /// Centimetres.
    Centimetre,
    /// Metres.
    Metre,
    /// Inches.
    Inch,
}

impl UnitChoice {
    /// The chosen unit, unless it is left to the file.
    pub fn unit(self) -> Option<LengthUnit> {
        match self {
            Self::Auto | Self::Ask => None,
            Self::Millimetre => Some(LengthUnit::Millimetre),
            Self::Centimetre => Some(LengthUnit::Centimetre),
            Self::Metre => Some(LengthUnit::Metre),
            Self::Inch => Some(LengthUnit::Inch),
        }
    }
}

/// Parameters of `bring_in`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename = "bring_in", deny_unknown_fields)]
#[schemars(transform = tagged("bring_in"))]
pub struct BringIn {
    /// The file's name.
    pub file: String,
    /// The content hash of the file.
    pub source: Hash,
    /// Its unit.
    #[serde(default)]
    pub unit: UnitChoice,
}

/// Parameters of `weigh.set_material`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename = "weigh.set_material", deny_unknown_fields)]
#[schemars(transform = tagged("weigh.set_material"))]
pub struct SetMaterial {
    /// The key of the material, as in docs/materials.md; of one of a house's own any name.
    pub material: String,
    /// What a material of a house's own is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub own: Option<OwnMaterial>,
}

impl SetMaterial {
    /// What it shrinks by when it sets, percent; nought where that is not known.
    pub fn shrinkage(&self) -> f64 {
        match &self.own {
            Some(own) => own.shrinkage,
            None => nimbet_trade::weigh::material(&self.material).map_or(0.0, |m| m.shrinkage),
        }
    }

    /// Name and density, g/cm³; none where there is no such material.
    pub fn facts(&self) -> Option<(&str, f64)> {
        match &self.own {
            Some(own) => Some((&own.name, own.density)),
            None => nimbet_trade::weigh::material(&self.material).map(|m| (m.name, m.density)),
        }
    }
}

/// Parameters of `keep`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename = "keep", deny_unknown_fields)]
#[schemars(transform = tagged("keep"))]
pub struct Keep {
    /// What the kept part is called.
    pub name: String,
}

/// Adds the tag of a struct to its schema, which leaves it out.
fn tagged(kind: &'static str) -> impl FnMut(&mut schemars::Schema) {
    move |schema| {
        if let Some(properties) = schema.get_mut("properties").and_then(|p| p.as_object_mut()) {
            properties.insert("kind".into(), serde_json::json!({ "type": "string", "const": kind }));
        }
        if let Some(required) = schema.get_mut("required").and_then(|r| r.as_array_mut()) {
            required.push("kind".into());
        }
    }
}

impl Action {
    /// The other parts that go into the step.
    pub fn others(&self) -> Vec<PartId> {
        match self {
            Self::Operation(w) => w.operation.others().into_iter().map(PartId).collect(),
            _ => vec![],
        }
    }

    /// Those of them that are gone afterwards.
    pub fn used_up(&self) -> Vec<PartId> {
        match self {
            Self::Operation(w) => w.operation.used_up().into_iter().map(PartId).collect(),
            _ => vec![],
        }
    }

    /// The same with other numbers for the parts that go into it.
    pub(crate) fn renumbered(&self, number: &dyn Fn(u32) -> u32) -> Self {
        match self {
            Self::Operation(w) => Self::Operation(Work { operation: w.operation.renumbered(number), ..*w }),
            other => other.clone(),
        }
    }

    /// Whether it makes a pattern larger for shrinkage, which is done once.
    pub(crate) fn scales_pattern(&self) -> bool {
        matches!(self, Self::Operation(work) if work.operation.tool::<ScalePattern>().is_some())
    }

    /// What the step is called on the screen.
    pub fn title(&self) -> String {
        match self {
            Self::BringIn(b) => format!("Bring in {}", b.file),
            Self::SetMaterial(m) => {
                format!("Material: {}", m.facts().map_or(m.material.as_str(), |f| f.0))
            }
            Self::Keep(k) => format!("Keep as {}", k.name),
            Self::Operation(w) => w.operation.title(),
        }
    }
}

impl<'de> Deserialize<'de> for Action {
    /// Looks at `kind` first, so that a fault in the parameters is told as such.
    fn deserialize<D: Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        use serde::de::Error;
        let mut value = serde_json::Value::deserialize(d)?;
        let kind = value.get("kind").and_then(|k| k.as_str()).unwrap_or_default().to_owned();
        // Structs write their tag but do not take it back.
        if matches!(kind.as_str(), "bring_in" | "weigh.set_material" | "keep")
            && let Some(fields) = value.as_object_mut()
        {
            fields.remove("kind");
        }
        match kind.as_str() {
            "bring_in" => serde_json::from_value(value).map(Self::BringIn),
            "weigh.set_material" => serde_json::from_value(value).map(Self::SetMaterial),
            "keep" => serde_json::from_value(value).map(Self::Keep),
            _ => {
                let keep_lost = value.as_object_mut().and_then(|fields| fields.remove(KEEP_LOST));
                keep_lost.map_or(Ok(false), serde_json::from_value).and_then(|keep_lost| {
                    Ok(Self::Operation(Work { operation: serde_json::from_value(value)?, keep_lost }))
                })
            }
        }
        .map_err(D::Error::custom)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn all_kinds_stand_side_by_side_in_json() {
        let texts = [
            r#"{"kind":"seal.close_gaps","reach":0.1}"#,
            r#"{"kind":"seal.cover_rim","rims":"all","style":"flat"}"#,
            r#"{"kind":"weigh.set_material","material":"bronze-tin-10"}"#,
            r#"{"kind":"seal.plan"}"#,
            r#"{"kind":"seal.re_skin","what":"tangles","rings":0,"keep_lost":true}"#,
            r#"{"kind":"keep","name":"as cast"}"#,
        ];
        for text in texts {
            let action: Action = serde_json::from_str(text).unwrap();
            assert_eq!(serde_json::to_string(&action).unwrap(), text);
        }
    }

    #[test]
    fn faults_are_named() {
        let fault = |text: &str| serde_json::from_str::<Action>(text).unwrap_err().to_string();
        assert!(fault(r#"{"kind":"seal.close_gaps","raech":1}"#).contains("raech"));
        assert!(fault(r#"{"kind":"seal.polish"}"#).contains("seal.polish"));
        assert!(fault(r#"{"reach":1}"#).contains("kind"));
        assert!(fault(r#"{"kind":"seal.plan","keep_lost":7}"#).contains("boolean"));
    }
}
