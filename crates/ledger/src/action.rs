//! What a step can be: something done to a part by the trade, or by the ledger itself.

use nimbet_formats::LengthUnit;
use nimbet_trade::Operation;
use nimbet_trade::weigh::{OwnMaterial, ScalePattern};
use nimbet_trade::words::is_plain;
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
    /// Changes what the part is called, its colour or its group.
    Label(Label),
    /// Takes parts out of the job.
    Delete(Delete),
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
    /// How far triangles may stand off exact surfaces of the file, mm; absent: 0.02.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub chord: Option<f64>,
    /// Whether faces end where colours, materials or named groups of the file do.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub groups: bool,
    /// The bodies of the file that come in, each as a part of its own; absent: all, as one part.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub bodies: Option<Vec<PickedBody>>,
}

/// A body of a file as a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PickedBody {
    /// Its number in the file, from 0.
    pub body: u32,
    /// What the part is called.
    #[serde(default)]
    pub name: String,
    /// The colour it is shown in, as `#rrggbb`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
}

impl BringIn {
    /// What is wrong with it, in plain words.
    pub fn fault(&self) -> Option<String> {
        const LARGEST: f64 = 1000.0;
        const LEAST: f64 = 1e-5;
        if self.chord.is_some_and(|c| !(LEAST..=LARGEST).contains(&c)) {
            return Some(format!("the chord tolerance must be a length from {LEAST} mm to {LARGEST} mm"));
        }
        let bodies = self.bodies.as_deref().unwrap_or_default();
        let twice = (bodies.iter().enumerate()).find(|(n, b)| bodies[..*n].iter().any(|o| o.body == b.body));
        match twice {
            _ if bodies.len() > MOST_BODIES => Some(format!("at most {MOST_BODIES} bodies come in at once")),
            _ if self.bodies.is_some() && bodies.is_empty() => Some("no body was chosen".into()),
            Some((_, body)) => Some(format!("body {} is named twice", body.body)),
            None => None,
        }
    }
}

/// So many parts a file may become at once.
pub const MOST_BODIES: usize = 1000;

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

/// The longest name of a part or a group, characters.
pub const LONGEST_NAME: usize = 80;

/// Whether a part or a group can be called that.
pub(crate) fn is_name(name: &str) -> bool {
    !name.trim().is_empty() && name.chars().count() <= LONGEST_NAME && is_plain(name)
}

/// Parameters of `label`. What is absent stays as it is.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename = "label", deny_unknown_fields)]
#[schemars(transform = tagged("label"))]
pub struct Label {
    /// What the part is called.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// The colour it is shown in, as `#rrggbb`; empty: none of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
    /// The group it is in; empty: none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub group: Option<String>,
}

impl Label {
    /// What is wrong with it, in plain words.
    pub(crate) fn fault(&self) -> Option<&'static str> {
        let is_colour = |c: &String| {
            c.is_empty() || c.len() == 7 && c.starts_with('#') && c[1..].bytes().all(|b| b.is_ascii_hexdigit())
        };
        if self.name.is_none() && self.colour.is_none() && self.group.is_none() {
            Some("say what changes: the name, the colour or the group")
        } else if self.name.as_ref().is_some_and(|n| !is_name(n)) {
            Some("a part needs a name of at most 80 characters, none of which control or turn text")
        } else if self.group.as_ref().is_some_and(|g| !g.is_empty() && !is_name(g)) {
            Some("a group needs a name of at most 80 characters, none of which control or turn text")
        } else if !self.colour.iter().all(is_colour) {
            Some("a colour is written #rrggbb")
        } else {
            None
        }
    }

    /// What it does, in plain words.
    pub(crate) fn told(&self) -> String {
        let name = self.name.as_ref().map(|n| format!("called {}", n.trim()));
        let colour = self
            .colour
            .as_ref()
            .map(|c| if c.is_empty() { "no colour of its own".into() } else { format!("coloured {c}") });
        let group = self
            .group
            .as_ref()
            .map(|g| if g.is_empty() { "in no group".into() } else { format!("in group {}", g.trim()) });
        [name, colour, group].into_iter().flatten().collect::<Vec<_>>().join(", ")
    }
}

/// Parameters of `delete`. The part the step is done to goes, and those named.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "kind", rename = "delete", deny_unknown_fields)]
#[schemars(transform = tagged("delete"))]
pub struct Delete {
    /// The numbers of further parts that go.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub also: Vec<u32>,
}

/// Adds the tag of a struct to its schema, which leaves it out.
fn tagged(kind: &'static str) -> impl FnMut(&mut schemars::Schema) {
    move |schema| {
        if let Some(properties) = schema.get_mut("properties").and_then(|p| p.as_object_mut()) {
            properties.insert("kind".into(), serde_json::json!({ "type": "string", "const": kind }));
        }
        let required = schema.ensure_object().entry("required").or_insert_with(|| serde_json::json!([]));
        if let Some(required) = required.as_array_mut() {
            required.push("kind".into());
        }
    }
}

impl Action {
    /// The other parts that go into the step.
    pub fn others(&self) -> Vec<PartId> {
        match self {
            Self::Operation(w) => w.operation.others().into_iter().map(PartId).collect(),
            Self::Delete(d) => d.also.iter().copied().map(PartId).collect(),
            _ => vec![],
        }
    }

    /// The parts that are gone after it is done to one.
    pub fn used_up(&self, own: PartId) -> Vec<PartId> {
        match self {
            Self::Operation(w) => w.operation.used_up().into_iter().map(PartId).collect(),
            Self::Delete(_) => std::iter::once(own).chain(self.others()).collect(),
            _ => vec![],
        }
    }

    /// The same with other numbers for the parts that go into it.
    pub(crate) fn renumbered(&self, number: &dyn Fn(u32) -> u32) -> Self {
        match self {
            Self::Operation(w) => Self::Operation(Work { operation: w.operation.renumbered(number), ..*w }),
            Self::Delete(d) => Self::Delete(Delete { also: d.also.iter().map(|n| number(*n)).collect() }),
            other => other.clone(),
        }
    }

    /// Whether it can be done where there is no part yet.
    pub(crate) fn on_bench(&self) -> bool {
        matches!(self, Self::Operation(work) if work.operation.on_bench())
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
            Self::Label(l) => format!("Label: {}", l.told()),
            Self::Delete(d) if d.also.is_empty() => "Delete the part".into(),
            Self::Delete(d) => format!("Delete {} parts", d.also.len() + 1),
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
        if matches!(kind.as_str(), "bring_in" | "weigh.set_material" | "keep" | "label" | "delete")
            && let Some(fields) = value.as_object_mut()
        {
            fields.remove("kind");
        }
        match kind.as_str() {
            "bring_in" => serde_json::from_value(value).map(Self::BringIn),
            "weigh.set_material" => serde_json::from_value(value).map(Self::SetMaterial),
            "keep" => serde_json::from_value(value).map(Self::Keep),
            "label" => serde_json::from_value(value).map(Self::Label),
            "delete" => serde_json::from_value(value).map(Self::Delete),
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
            r##"{"kind":"label","name":"Cowl","colour":"#a0b1c2"}"##,
            r#"{"kind":"label","group":""}"#,
            r#"{"kind":"delete"}"#,
            r#"{"kind":"delete","also":[3,7]}"#,
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
