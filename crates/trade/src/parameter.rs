//! What the parameters of tools are: lengths, angles, counts, places, picks … with their units and limits. A tool's field says
//! which by `#[schemars(with = "Length")]`; the description goes into the schema, and from there to whoever sends or draws steps.
//!
//! Beside the words of JSON schema a field may have these: `unit`; `asks`, how it is asked for where a plain figure does not do;
//! `empty`, what leaving it out means; `when`, the JSON pointers and values with which alone it counts (`true` for anything that is
//! there); `folded`, that it is seldom changed. Its label is `title`, by its name when absent.

use std::borrow::Cow;

use schemars::{JsonSchema, Schema, SchemaGenerator, json_schema};

macro_rules! parameters {
    ($($(#[$doc:meta])* $name:ident $schema:tt)*) => {$(
        $(#[$doc])*
        pub enum $name {}

        impl JsonSchema for $name {
            fn inline_schema() -> bool {
                true
            }

            fn schema_name() -> Cow<'static, str> {
                stringify!($name).into()
            }

            fn json_schema(_: &mut SchemaGenerator) -> Schema {
                json_schema!($schema)
            }
        }
    )*};
}

parameters! {
    /// A length above 0.
    Length { "type": "number", "unit": "mm", "exclusiveMinimum": 0 }
    /// A length, or 0 for none.
    LengthOrNone { "type": "number", "unit": "mm", "minimum": 0 }
    /// A length to one side or, below 0, to the other.
    Distance { "type": "number", "unit": "mm" }
    /// The same, but never 0.
    Offset { "type": "number", "unit": "mm", "not": { "const": 0 } }
    /// A volume above 0.
    Volume { "type": "number", "unit": "mm³", "exclusiveMinimum": 0 }
    /// An angle, either way round.
    Turned { "type": "number", "unit": "°" }
    /// An angle less than half a turn.
    Angle { "type": "number", "unit": "°", "exclusiveMinimum": 0, "maximum": 180 }
    /// A share above 0, at most all.
    Share { "type": "number", "exclusiveMinimum": 0, "maximum": 1 }
    /// A factor above 0.
    Factor { "type": "number", "unit": "×", "exclusiveMinimum": 0 }
    /// A place in space.
    Position { "type": "array", "asks": "position", "unit": "mm", "items": { "type": "number" }, "minItems": 3, "maxItems": 3 }
    /// How far along x, y and z.
    Move { "type": "array", "asks": "move", "unit": "mm", "items": { "type": "number" }, "minItems": 3, "maxItems": 3 }
    /// How long along x, y and z.
    Size {
        "type": "array", "asks": "size", "unit": "mm", "minItems": 3, "maxItems": 3,
        "items": { "type": "number", "unit": "mm", "exclusiveMinimum": 0 },
    }
    /// How much smaller what is cast is along x, y and z: nothing that is cast shrinks by more than a quarter.
    Shrinkage {
        "type": "array", "asks": "move", "unit": "%", "minItems": 3, "maxItems": 3,
        "items": { "type": "number", "unit": "%", "minimum": 0, "maximum": 25 },
    }
    /// A direction, of any length but 0.
    Direction { "type": "array", "asks": "direction", "items": { "type": "number" }, "minItems": 3, "maxItems": 3 }
    /// The number of another part.
    Part { "type": "integer", "asks": "part", "minimum": 0 }
}
