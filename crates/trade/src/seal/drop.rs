//! `seal.drop`: takes away what adds nothing: duplicates, triangles without area, specks.

use nimbet_kernel::crossings::triangle_bvh;
use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::{Mesh, Progress, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::{About, degenerate_triangles, duplicate_triangles};
use crate::parameter::{Length, Position};
use crate::picks::triangle_under;
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::{Xyz, count, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `seal.drop`.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Drop {
    /// Drop triangles that are there twice; the first stays.
    #[serde(default)]
    pub duplicates: bool,
    /// Drop triangles without area; a point in the middle of a neighbour's edge is then joined into it.
    #[serde(default)]
    #[schemars(title = "Triangles without area")]
    pub degenerate: bool,
    /// Drop shells that are less than this across, mm. The largest shell always stays.
    #[serde(default)]
    #[schemars(title = "Specks below", with = "Option<Length>", extend("empty" = "keep"))]
    pub specks_below: Option<f64>,
    /// Drop the shells that lie under these points, mm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schemars(with = "Vec<Position>", extend("asks" = "shells", "hint" = "Or click loose shells in the viewport."))]
    pub shells: Vec<Xyz>,
}

impl Tool for Drop {
    const KIND: &'static str = "seal.drop";
    const WHAT: &'static str = "Take away duplicates, degenerate triangles and specks.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "drop",
        name: "Drop",
        hint: "Duplicates, triangles without area, specks, picked shells",
        group: "Take out and make anew",
        words: &["delete", "remove", "clean up", "noise", "small shells"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({ "duplicates": true, "degenerate": true, "specks_below": null }),
    }];

    fn title(&self) -> String {
        let mut what = Vec::new();
        if self.duplicates {
            what.push("duplicates".to_owned());
        }
        if self.degenerate {
            what.push("triangles without area".to_owned());
        }
        if let Some(size) = self.specks_below {
            what.push(format!("specks below {}", millimetres(size)));
        }
        if !self.shells.is_empty() {
            what.push(count(self.shells.len(), "shell", "shells"));
        }
        format!("Drop {}", what.join(", "))
    }

    fn remedies(about: &About) -> Vec<Cure> {
        let drop = |label: &str, what: Self| vec![Cure::new(1, label, what)];
        let shell =
            |at: &Option<Xyz>| drop("Drop it", Self { shells: at.iter().copied().collect(), ..Self::default() });
        match about {
            About::Duplicates | About::Crowded { twice: true, .. } => {
                drop("Drop duplicates", Self { duplicates: true, ..Self::default() })
            }
            About::Degenerate => drop("Drop triangles without area", Self { degenerate: true, ..Self::default() }),
            About::Specks { below } => {
                let what = Self { specks_below: Some(*below), ..Self::default() };
                drop(&format!("Drop specks below {}", millimetres(*below)), what)
            }
            About::StraySheet { at } => shell(at),
            About::InsideOut { stray } if stray.is_some() => shell(stray),
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        if *self == Self::default() {
            return Err(TradeError::refused(
                "choose what to drop: duplicates, triangles without area, specks or shells",
                vec![],
            ));
        }
        let mut out = mesh.clone();
        let mut done = Vec::new();
        if self.duplicates {
            progress.report(0.1, "looking for duplicates")?;
            let gone = duplicate_triangles(&Topology::new(out.triangles(), out.points().len()));
            if !gone.is_empty() {
                out = without(&out, &gone);
                done.push(format!("dropped {}", count(gone.len(), "duplicate", "duplicates")));
            }
        }
        if self.degenerate {
            progress.report(0.4, "looking for triangles without area")?;
            let dropped = drop_degenerate(&mut out, progress)?;
            if dropped > 0 {
                done.push(format!("dropped {} without area", count(dropped, "triangle", "triangles")));
            }
        }
        if let Some(size) = self.specks_below {
            progress.report(0.7, "looking for specks")?;
            let (kept, specks) = without_specks(&out, size);
            if specks > 0 {
                out = kept;
                done.push(format!("dropped {} below {}", count(specks, "speck", "specks"), millimetres(size)));
            }
        }
        if !self.shells.is_empty() {
            progress.report(0.8, "dropping shells")?;
            let bvh = triangle_bvh(&out);
            let (shell_of, n) = shells::shells(&Topology::new(out.triangles(), out.points().len()));
            let mut gone = vec![false; n];
            for near in &self.shells {
                gone[shell_of[triangle_under(&out, &bvh, *near, "the shell")?] as usize] = true;
            }
            let dropped = gone.iter().filter(|g| **g).count();
            if dropped == n {
                return Err(TradeError::refused("that would drop the whole part", vec![]));
            }
            out = out.retain_triangles(|t| !gone[shell_of[t] as usize]);
            done.push(format!("dropped {}", count(dropped, "shell", "shells")));
        }
        if done.is_empty() {
            return Err(TradeError::nothing("there is nothing of this kind to drop"));
        }
        Ok(Outcome { done, ..Outcome::of(out, String::new()) })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

fn without(mesh: &Mesh, sorted: &[u32]) -> Mesh {
    mesh.retain_triangles(|t| sorted.binary_search(&(t as u32)).is_err())
}

/// Drops triangles without area. One whose corners are three different points on a line is flipped into its neighbour over
/// its longest side first, so that nothing opens.
fn drop_degenerate(mesh: &mut Mesh, progress: &Progress) -> Result<usize, TradeError> {
    /// A chain of triangles on one line is undone one triangle a round.
    const ROUNDS: usize = 32;
    let before = degenerate_triangles(mesh).len();
    for _ in 0..ROUNDS {
        progress.check()?;
        let flat = degenerate_triangles(mesh);
        if flat.is_empty() {
            break;
        }
        let (points, mut triangles, faces) = mesh.clone().into_parts();
        let mut gone = Vec::new();
        {
            let fixed = triangles.clone();
            let topology = Topology::new(&fixed, points.len());
            let mut touched = std::collections::HashSet::new();
            for &t in &flat {
                let c = fixed[t as usize];
                if c[0] == c[1] || c[1] == c[2] || c[2] == c[0] {
                    gone.push(t);
                    continue;
                }
                let p = c.map(|v| points[v as usize]);
                let side = |k: usize| (p[(k + 1) % 3] - p[k]).length_squared();
                let k = (0..3).max_by(|&i, &j| side(i).total_cmp(&side(j))).unwrap_or(0);
                let edge = topology.edge_of(3 * t + k as u32);
                let neighbour = topology.halves(edge).iter().map(|h| h / 3).find(|&u| u != t);
                match neighbour {
                    Some(u) if topology.edge_use(edge) == EdgeUse::Regular => {
                        if !touched.insert(t) || !touched.insert(u) {
                            continue;
                        }
                        let (a, b, middle) = (c[k], c[(k + 1) % 3], c[(k + 2) % 3]);
                        let Some(apex) = fixed[u as usize].into_iter().find(|v| *v != a && *v != b) else { continue };
                        if apex == middle {
                            gone.extend([t, u]);
                            continue;
                        }
                        triangles[t as usize] = [a, apex, middle];
                        triangles[u as usize] = [apex, b, middle];
                    }
                    _ => gone.push(t),
                }
            }
        }
        gone.sort_unstable();
        gone.dedup();
        let next = without(&Mesh::new(points, triangles, faces)?, &gone);
        if gone.is_empty() && degenerate_triangles(&next).len() >= flat.len() {
            break;
        }
        *mesh = next;
    }
    Ok(before.saturating_sub(degenerate_triangles(mesh).len()))
}

fn without_specks(mesh: &Mesh, size: f64) -> (Mesh, usize) {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let (shell_of, n) = shells::shells(&topology);
    let mut members = vec![vec![]; n];
    shell_of.iter().enumerate().for_each(|(t, shell)| members[*shell as usize].push(t as u32));
    let across: Vec<f64> = members.iter().map(|m| shells::across(mesh, m)).collect();
    let largest = (0..n).max_by(|&i, &j| across[i].total_cmp(&across[j]).then(j.cmp(&i)));
    let speck: Vec<bool> = (0..n).map(|i| Some(i) != largest && across[i] < size).collect();
    let specks = speck.iter().filter(|s| **s).count();
    (mesh.retain_triangles(|t| !speck[shell_of[t] as usize]), specks)
}
