//! `seal.agree_windings`: makes neighbouring triangles agree about the outside, keeping the side most of the area has.

use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::{Mesh, Point};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::budget::Effort;
use crate::examine::About;
use crate::tool::{Cure, Effect, Entry, Given, Needs, Tool};
use crate::words::count;
use crate::{Outcome, TradeError};

/// Parameters of `seal.agree_windings`: none.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct AgreeWindings {}

impl Tool for AgreeWindings {
    const KIND: &'static str = "seal.agree_windings";
    const WHAT: &'static str = "Make neighbouring triangles agree about the outside.";
    const EFFORT: Effort = Effort::Passing;
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "agree_windings",
        name: "Make sides agree",
        hint: "Make neighbours agree about the outside",
        group: "Inside and outside",
        words: &["unify normals", "flip normals", "orientation"],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        "Make sides agree".into()
    }

    fn remedies(about: &About) -> Vec<Cure> {
        if *about == About::Clash { vec![Cure::new(0, "Make sides agree", Self {})] } else { vec![] }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        progress.report(0.3, "following neighbours")?;
        let flip = turns(mesh, &topology)?;
        let turned = flip.iter().filter(|f| **f).count();
        if turned == 0 {
            return Err(TradeError::nothing("all neighbouring triangles agree already"));
        }
        let mut out = mesh.clone();
        out.reverse_triangles(|t| flip[t]);
        Ok(Outcome {
            done: vec![format!("turned {}", count(turned, "triangle", "triangles"))],
            ..Outcome::of(out, String::new())
        })
    }

    fn effect(&self) -> Effect {
        Effect::Mends
    }
}

/// Which triangles must turn. Walks over edges of two triangles; in each connected piece the side with less area turns.
fn turns(mesh: &Mesh, topology: &Topology<'_>) -> Result<Vec<bool>, TradeError> {
    let n = mesh.triangles().len();
    let mut flip = vec![None; n];
    for seed in 0..n {
        if flip[seed].is_some() {
            continue;
        }
        flip[seed] = Some(false);
        let mut piece = vec![seed];
        let mut next = 0;
        while next < piece.len() {
            let t = piece[next];
            next += 1;
            for half in (3 * t as u32)..(3 * t as u32 + 3) {
                let edge = topology.edge_of(half);
                if edge == nimbet_kernel::topology::NO_EDGE {
                    continue;
                }
                let clash = match topology.edge_use(edge) {
                    EdgeUse::Regular => false,
                    EdgeUse::Clashing => true,
                    EdgeUse::Naked | EdgeUse::Crowded => continue,
                };
                for &other in topology.halves(edge) {
                    let u = other as usize / 3;
                    let wanted = flip[t] != Some(clash);
                    match flip[u] {
                        _ if u == t => {}
                        None => {
                            flip[u] = Some(wanted);
                            piece.push(u);
                        }
                        Some(held) if held != wanted => {
                            let (a, b) = topology.ends(half);
                            let middle = (mesh.points()[a as usize] + mesh.points()[b as usize]) * 0.5;
                            return Err(TradeError::refused(
                                "the surface has only one side, like a band with a twist: no choice of windings agrees. Cut it here",
                                vec![middle],
                            ));
                        }
                        Some(_) => {}
                    }
                }
            }
        }
        let area = |turned: bool| -> f64 {
            piece.iter().filter(|&&t| flip[t] == Some(turned)).map(|&t| Point::length(mesh.area_vector(t))).sum()
        };
        if area(true) > area(false) {
            for &t in &piece {
                flip[t] = flip[t].map(|f| !f);
            }
        }
    }
    Ok(flip.into_iter().map(|f| f == Some(true)).collect())
}
