//! The forms a bore can have, as they are asked for.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::fittings::Clearance;
use super::thread::Thread;
use crate::parameter::{Direction, Length, LengthOrNone};
use crate::words::Xyz;

/// How wide a bore is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
pub enum Width {
    /// Its diameter, mm.
    Diameter(#[schemars(with = "Length")] f64),
    /// So that a screw goes through.
    For(ClearanceFor),
}

/// Room for a screw.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ClearanceFor {
    /// The screw: `M4`.
    pub screw: String,
    /// How much room.
    #[serde(default)]
    pub class: Clearance,
}

/// The form of a bore. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase", deny_unknown_fields)]
pub enum BoreForm {
    /// Round and straight.
    Plain {
        /// How wide.
        width: Width,
    },
    /// With a cone for a flat head.
    Countersunk {
        /// How wide the bore is.
        width: Width,
        /// The diameter of the cone at the mouth; by the screw when absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(with = "Option<Length>")]
        head: Option<f64>,
        /// Between the sides of the cone, degrees.
        #[serde(default = "ninety")]
        #[schemars(range(min = 30, max = 150), extend("unit" = "°"))]
        angle: f64,
    },
    /// With a wider bore for a head that is sunk.
    Counterbored {
        /// How wide the bore is.
        width: Width,
        /// The diameter of the wider part; by the screw when absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(with = "Option<Length>")]
        head: Option<f64>,
        /// Its depth; by the screw when absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(with = "Option<Length>")]
        depth: Option<f64>,
    },
    /// With a flat round the mouth for a washer.
    Spotfaced {
        /// How wide the bore is.
        width: Width,
        /// The diameter of the flat; by the screw when absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(with = "Option<Length>")]
        head: Option<f64>,
        /// How far below the deepest point of the mouth.
        #[serde(default)]
        #[schemars(with = "LengthOrNone")]
        depth: f64,
    },
    /// To be tapped afterwards.
    Tapped {
        /// The thread: `M4x0.7`.
        size: String,
    },
    /// With its thread.
    Threaded(ThreadedBore),
    /// A pocket for an insert that is pressed or melted in.
    Insert {
        /// The screw it is for: `M4`; the table's pocket is taken.
        screw: String,
        /// The pocket's diameter, in the place of the table's.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(with = "Option<Length>")]
        diameter: Option<f64>,
        /// Its depth, in the place of the table's.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(with = "Option<Length>")]
        depth: Option<f64>,
    },
    /// A roof of 45 degrees over it, for bores that lie across the layers.
    Teardrop {
        /// How wide.
        width: Width,
        /// Where the layers go up.
        #[serde(default = "upward")]
        #[schemars(with = "Direction")]
        up: Xyz,
    },
    /// Longer than wide, with round ends.
    Slot {
        /// How wide.
        width: Width,
        /// From the middle of one end to that of the other.
        #[schemars(with = "Length")]
        length: f64,
        /// The direction it is long in.
        #[serde(default = "sideways")]
        #[schemars(with = "Direction")]
        way: Xyz,
    },
    /// Any closed outline.
    Opening {
        /// Its corners about the place: along x as it lies in the face, and square to that.
        outline: Vec<[f64; 2]>,
    },
}

/// A thread in a bore. Lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct ThreadedBore {
    /// The thread.
    pub thread: Thread,
    /// How deep it is threaded; when absent all the way, or to two pitches off a blind bottom.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Length>")]
    pub threaded: Option<f64>,
    /// The diameter of the lead-ins at their mouths; by the size when absent, none at 0.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<LengthOrNone>")]
    pub lead_in: Option<f64>,
    /// Whether only its bore is made, with the thread to be cut at release.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub marked: bool,
}

fn ninety() -> f64 {
    90.0
}

fn upward() -> Xyz {
    [0.0, 0.0, 1.0]
}

fn sideways() -> Xyz {
    [1.0, 0.0, 0.0]
}
