//! `shape.chambers`: the spaces that parts and planes enclose together become parts.

use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::{Aabb, Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::sheets::{Plane, with_corners_of};
use crate::parameter::{Part, Position};
use crate::solids::{told, volume};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, count};
use crate::{Made, Outcome, TradeError};

/// Parameters of `shape.chambers`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Chambers {
    /// The numbers of further parts, sheets or solids, that bound chambers together with this one. They stay.
    #[serde(default)]
    #[schemars(title = "Other parts that bound chambers", with = "Vec<Part>")]
    pub with: Vec<u32>,
    /// Planes that bound chambers too.
    #[serde(default)]
    pub planes: Vec<Plane>,
    /// A place in each chamber that becomes a part, mm; all do when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Vec<Position>>", extend("asks" = "none"))]
    pub picked: Option<Vec<Xyz>>,
    /// Whether they become one part together; else each is one of its own.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "As one part together")]
    pub together: bool,
}

/// More parts than this nobody can handle one by one.
const MOST: usize = 200;

/// Chambers of less than this share of the largest are what rounding leaves between surfaces that lie on each other.
const CRUMB: f64 = 1e-9;

impl Tool for Chambers {
    const KIND: &'static str = "shape.chambers";
    const WHAT: &'static str = "Make parts of the spaces that parts and planes enclose.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "chambers",
        name: "Chambers",
        hint: "The spaces that parts and planes enclose become parts",
        group: "Together and apart",
        words: &["cavity", "enclosed space", "split by surfaces", "volumes"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "with": [], "planes": [] }),
    }];

    fn title(&self) -> String {
        match self.picked.as_ref().map(Vec::len) {
            Some(n) => crate::words::count(n, "chamber", "chambers"),
            None => "Chambers".into(),
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, others, progress, .. } = *given;
        let bounds = Aabb::of(std::iter::once(mesh).chain(others).flat_map(|m| m.points().iter().copied()));
        let planes: Vec<Plane> = self.planes.iter().map(|p| p.on(mesh)).collect::<Result<_, _>>()?;
        let bounds = with_corners_of(bounds, &planes)?;
        let planes: Vec<Mesh> = planes.iter().map(|p| p.sheet(&bounds)).collect::<Result<_, _>>()?;
        let sheets: Vec<&Mesh> = std::iter::once(mesh).chain(others).chain(&planes).collect();
        let no_name = |e| told(e, &|_| "the part".into());
        let all = Arrangement::new(&[], &sheets, &progress.stage(0.0, 0.6)).map_err(no_name)?;
        let chambers = all.chambers(0.0, &progress.stage(0.6, 0.8))?;
        let least = chambers.list().first().map_or(0.0, |c| c.volume * CRUMB);
        let found = chambers.list().iter().filter(|c| c.volume > least).count();
        if found == 0 {
            return Err(TradeError::nothing(
                "nothing is enclosed: the parts and planes leave a way out everywhere; add a part or plane that closes it",
            ));
        }
        let mut chosen: Vec<usize> = match &self.picked {
            None => (0..found).collect(),
            Some(picked) => {
                let at = |p: &Xyz| {
                    let place = Point::from_array(*p);
                    chambers
                        .at(place)
                        .filter(|n| *n < found)
                        .ok_or_else(|| TradeError::NeedsNewPick { what: "the chamber".into(), place })
                };
                picked.iter().map(at).collect::<Result<_, _>>()?
            }
        };
        chosen.sort_unstable();
        chosen.dedup();
        if chosen.is_empty() {
            return Err(TradeError::refused("pick the chambers that are to become parts", vec![]));
        }
        let groups: Vec<&[usize]> = if self.together { vec![&chosen] } else { chosen.chunks(1).collect() };
        if groups.len() > MOST {
            let why = format!("that would make {}; {MOST} are the most", count(groups.len(), "part", "parts"));
            return Err(TradeError::refused(why, vec![]));
        }
        let mut outcome = Outcome::of(mesh.clone(), String::new());
        for (n, group) in groups.iter().enumerate() {
            let share = |n: usize| 0.8 + 0.2 * n as f64 / groups.len() as f64;
            progress.report(share(n), "making parts of chambers")?;
            let making = progress.stage(share(n), share(n + 1));
            let body = chambers.body(group, &making).map_err(no_name)?.mesh;
            let inside = chambers.list()[group[0]].inside.unwrap_or(bounds.centre());
            let name = if groups.len() == 1 { "Chamber".into() } else { format!("Chamber {}", n + 1) };
            outcome.more.push(Made { inside: Some(inside), ..Made::of(body, name) });
        }
        let volumes: Vec<String> = outcome.more.iter().take(4).map(|made| volume(&made.mesh)).collect();
        let and_more = if outcome.more.len() > volumes.len() { " and more" } else { "" };
        outcome.done = vec![format!(
            "{} of {} enclosed became {}: {}{and_more}",
            chosen.len(),
            count(found, "chamber", "chambers"),
            if groups.len() == 1 { "a part" } else { "parts" },
            volumes.join(", "),
        )];
        Ok(outcome)
    }

    fn parts(&mut self) -> Vec<&mut u32> {
        self.with.iter_mut().collect()
    }
}
