//! Threads of a part, cut or marked: what drawing them, screwing them into each other and a list of them needs.

use nimbet_kernel::Point;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::thread::{Gender, Thread};
use crate::TradeError;
use crate::words::{Xyz, xyz};

/// A thread that a step made. Lengths in mm, places as the part was then.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct ThreadMark {
    /// What it is called: `M4x0.7, left-handed`.
    pub name: String,
    /// The thread.
    pub thread: Thread,
    /// In a bore or on a pin.
    pub gender: Gender,
    /// The number of the bore's or pin's wall.
    pub face: u32,
    /// Where it begins, on the axis, at its mouth.
    pub at: Xyz,
    /// From there along the axis, of unit length.
    pub way: Xyz,
    /// How long it is.
    pub length: f64,
    /// The radius of the bore, or of the ridges.
    pub radius: f64,
    /// From ridge to ridge.
    pub pitch: f64,
    /// Whether it is on the part the step made beside the one it was done to.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub made: bool,
    /// Whether it is cut; else it is marked, and cut at release.
    pub cut: bool,
}

impl ThreadMark {
    pub(super) fn new(
        thread: &Thread,
        gender: Gender,
        face: u32,
        [at, way]: [Point; 2],
        length: f64,
        cut: bool,
    ) -> Result<Self, TradeError> {
        let form = thread.form()?;
        let radius = if gender == Gender::Internal { form.bore } else { form.crest };
        let (name, pitch) = (thread.name(), form.pitch);
        Ok(Self {
            name,
            thread: thread.clone(),
            gender,
            face,
            at: xyz(at),
            way: xyz(way),
            length,
            radius,
            pitch,
            made: false,
            cut,
        })
    }
}
