//! Further parts a step makes, and what they are called.

use nimbet_kernel::{Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// What a further part of a step is called.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Called {
    /// By itself: "Drum".
    Plain(String),
    /// After the part it was made of: "Coat" gives "Coat of Hinge leaf".
    Of(String),
    /// As the other part with this number, which goes into the step, was called.
    As(u32),
}

/// A further part a step makes.
#[derive(Clone, Debug, PartialEq)]
pub struct Made {
    /// The part.
    pub mesh: Mesh,
    /// What it is called.
    pub called: Called,
    /// A place inside it, where that is known.
    pub inside: Option<Point>,
}

impl Made {
    /// One that is called by itself.
    pub fn plain(mesh: Mesh, what: impl Into<String>) -> Self {
        Self { mesh, called: Called::Plain(what.into()), inside: None }
    }

    /// One that is called after the part it was made of.
    pub fn of(mesh: Mesh, what: impl Into<String>) -> Self {
        Self { mesh, called: Called::Of(what.into()), inside: None }
    }

    /// Several of one kind: numbered where there is more than one, from a number on.
    pub fn each_of(meshes: Vec<Mesh>, what: &str, from: usize) -> Vec<Self> {
        let only = meshes.len() == 1 && from == 1;
        let name = |n: usize| if only { what.to_owned() } else { format!("{what} {n}") };
        meshes.into_iter().zip(from..).map(|(mesh, n)| Self::of(mesh, name(n))).collect()
    }
}
