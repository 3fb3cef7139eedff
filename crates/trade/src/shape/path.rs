//! The path something is moved along: lines of profiles, a helix, edges of the part.

use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_profile::path::{Helix, Path, PathError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::profile::Profile;
use crate::TradeError;
use crate::edge_chains::one_chain;
use crate::parameter::{Direction, Distance, Length, Part, Position, Turned};
use crate::tool::Given;
use crate::wire::{self, MEET, Wire};
use crate::words::Xyz;

/// A path.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum PathOf {
    /// Lines of profiles and of wires, put end to end.
    #[schemars(title = "Lines of profiles")]
    Profiles {
        /// The numbers of the profiles and wires, in any order that goes on.
        #[schemars(title = "Profiles and wires it runs along", with = "Vec<Part>")]
        parts: Vec<u32>,
        /// A line of the one meant, where a profile or a wire has several that do not hang together; of a wire by its number from 1.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(title = "The line it takes", extend("empty" = "the only one"))]
        line: Option<String>,
    },
    /// Round an axis, climbing evenly.
    Helix {
        /// The centre of its beginning, mm.
        #[schemars(title = "The centre it begins round", with = "Position")]
        at: Xyz,
        /// Where its axis goes.
        #[schemars(with = "Direction")]
        axis: Xyz,
        /// Its radius.
        #[schemars(with = "Length")]
        radius: f64,
        /// Its radius at the end; as at the beginning when absent.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        #[schemars(title = "Radius at the end", with = "Option<Length>", extend("empty" = "the same"))]
        end: Option<f64>,
        /// How far it climbs in a turn.
        #[schemars(title = "Climbs in a turn", with = "Distance")]
        pitch: f64,
        /// How many turns.
        #[schemars(extend("exclusiveMinimum" = 0, "maximum" = 1000, "unit" = "×"))]
        turns: f64,
        /// Whether it turns by the left hand.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        #[schemars(title = "Left-handed")]
        left: bool,
        /// The angle it begins at about the axis.
        #[serde(default)]
        #[schemars(title = "Begins at", with = "Turned", extend("folded" = true))]
        begins: f64,
    },
    /// Edges of the part, by points on them, mm; an edge on the border of a face brings its whole run from corner to corner.
    #[schemars(title = "Edges of the part")]
    Edges(
        #[schemars(with = "Vec<Position>", extend("asks" = "edges", "least" = 1, "hint" = "Click edges that go on from each other."))]
         Vec<Xyz>,
    ),
}

/// Where something upright has across that runs along a direction.
fn upright(along: Point) -> Point {
    let up = if along.cross(Point::Z).length() > 0.1 { Point::Z } else { Point::Y };
    up.cross(along)
}

pub(super) fn path_refused(e: PathError) -> TradeError {
    TradeError::refused(e.why, e.places)
}

impl PathOf {
    /// The numbers of the profiles it is made of.
    pub(super) fn parts(&mut self) -> Vec<&mut u32> {
        match self {
            Self::Profiles { parts, .. } => parts.iter_mut().collect(),
            _ => vec![],
        }
    }

    /// The path, with the direction what is moved along it has across at first. `others` are the meshes of its profiles; where it
    /// names none, the part is the profile.
    pub(super) fn path(&self, given: &Given<'_>, others: &[Mesh]) -> Result<(Path, Point), TradeError> {
        match self {
            Self::Profiles { parts, line } => {
                let meshes = if parts.is_empty() { std::slice::from_ref(given.mesh) } else { others };
                along_profiles(meshes, line.as_deref(), given.progress)
            }
            Self::Helix { .. } => self.helix(),
            Self::Edges(picks) => {
                let (points, closed) = one_chain(given.mesh, picks)?;
                let path = Path::through(&points, closed);
                let across = upright(path.measured().after(0.0).1);
                Ok((path, across))
            }
        }
    }

    fn helix(&self) -> Result<(Path, Point), TradeError> {
        let Self::Helix { at, axis, radius, end, pitch, turns, left, begins } = self else {
            return Err(TradeError::nothing("no helix"));
        };
        let centre = Point::from_array(*at);
        let axis = Point::from_array(*axis).try_normalize().filter(|_| centre.is_finite());
        let axis = axis.ok_or_else(|| TradeError::refused("the axis has no direction", vec![]))?;
        let side = if axis.cross(Point::Z).length() > 1e-6 { Point::Z.cross(axis).normalize() } else { Point::X };
        let (sin, cos) = begins.to_radians().sin_cos();
        let out = side * cos + axis.cross(side) * sin;
        let sign = if *left { -1.0 } else { 1.0 };
        let whole = std::f64::consts::TAU * turns;
        // In stretches of a turn, so that each is a face of its own.
        let pieces = turns.ceil().max(1.0) as usize;
        let radius_at = |share: f64| radius + (end.unwrap_or(*radius) - radius) * share;
        let stretch = |k: usize| {
            let [from, to] = [k, k + 1].map(|k| (k as f64 / turns).min(1.0));
            let (sin, cos) = (sign * whole * from).sin_cos();
            nimbet_profile::path::Stretch::Helix(Helix {
                at: centre + axis * (pitch * turns * from),
                axis,
                out: out * cos + axis.cross(out) * sin,
                radius: [radius_at(from), radius_at(to)],
                height: pitch * turns * (to - from),
                turn: sign * whole * (to - from),
            })
        };
        Ok((Path { stretches: (0..pieces).map(stretch).collect(), closed: *pitch == 0.0 && *turns == 1.0 }, out))
    }
}

/// The chain of a line of a profile, or its only one.
fn chain_of(profile: &Profile, line: Option<&str>) -> Result<Path, TradeError> {
    let chains = profile.network.chains();
    let names = |k: usize| -> Vec<&str> {
        chains[k].curves.iter().map(|(curve, _)| profile.network.curves[*curve].name.as_str()).collect()
    };
    let has =
        |k: &usize| line.is_none_or(|line| names(*k).iter().any(|n| *n == line || n.starts_with(&format!("{line}."))));
    let fitting: Vec<usize> = (0..chains.len()).filter(has).collect();
    match fitting[..] {
        [one] => Ok(Path::of_chain(&profile.network, &chains[one], &profile.plane)),
        [] => {
            let why = line.map_or("the profile has no line".to_owned(), |l| format!("the profile has no line '{l}'"));
            Err(TradeError::refused(why, vec![]))
        }
        ref several => {
            let firsts: Vec<&str> = several.iter().filter_map(|k| names(*k).first().copied()).take(12).collect();
            let places =
                several.iter().map(|k| profile.place(profile.network.curves[chains[*k].curves[0].0].spans[0].from()));
            let why = format!(
                "the profile has {} lines that do not hang together: say which it takes ({})",
                several.len(),
                firsts.join(", ")
            );
            Err(TradeError::refused(why, places.collect()))
        }
    }
}

fn along_profiles(meshes: &[Mesh], line: Option<&str>, progress: &Progress) -> Result<(Path, Point), TradeError> {
    let (mut paths, mut normal) = (Vec::new(), None);
    for mesh in meshes {
        if let Some(wire) = Wire::of(mesh) {
            paths.push(wire::chain_of(&wire, line)?);
            continue;
        }
        let profile = Profile::of(mesh, progress)?;
        normal = normal.or(Some(profile.plane.normal));
        paths.push(chain_of(&profile, line)?);
    }
    let path = Path::joined(paths, MEET).map_err(path_refused)?;
    // A section stands upright on the plane of the path: its y along the normal. Where there is none, on the ground.
    let along = path.measured().after(0.0).1;
    let across = normal.map_or_else(|| upright(along), |normal| normal.cross(along));
    Ok((path, across))
}
