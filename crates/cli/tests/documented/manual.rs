//! The manual: a section for each tool, whose recipe runs and draws its picture.

use std::collections::BTreeMap;
use std::path::PathBuf;

use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{Recipe, run_recipe};
use nimbet_trade::{demo, kinds};

use super::picture::{Eye, Picture, beside, drawn};

const PAGES: [&str; 5] = ["shape", "seal", "wall", "weigh", "fasten"];
const SIZE: (usize, usize) = (240, 180);

struct Section {
    page: &'static str,
    name: String,
    key: String,
    text: String,
    /// The demo part the recipe is for; empty: the empty bench.
    on: String,
    steps: Vec<serde_json::Value>,
}

fn folder() -> PathBuf {
    PathBuf::from(env!("CARGO_MANIFEST_DIR")).join("../../docs/manual")
}

fn sections() -> Vec<Section> {
    let mut all = Vec::new();
    for page in PAGES {
        let text = std::fs::read_to_string(folder().join(format!("{page}.md"))).unwrap();
        for part in text.split("\n## ").skip(1) {
            let (name, rest) = part.split_once('\n').unwrap();
            let key = rest.trim_start().split('`').nth(1).unwrap_or_default().to_owned();
            let (before, code) = rest.split_once("```json").unwrap_or_else(|| panic!("{name}: no recipe"));
            let (head, code) = code.split_once('\n').unwrap();
            let code = code.split("```").next().unwrap();
            let steps = serde_json::from_str(code).unwrap_or_else(|e| panic!("{name}: {e}"));
            let on = head.trim().strip_prefix("on ").unwrap_or_default().to_owned();
            all.push(Section { page, name: name.trim().to_owned(), key, text: before.to_owned(), on, steps });
        }
    }
    all
}

impl Section {
    /// The place of the step it is about: the last of a kind that stands under its key.
    fn own(&self) -> Option<usize> {
        let is_own = |step: &serde_json::Value| {
            let kind = kinds().into_iter().find(|k| Some(k.kind) == step["kind"].as_str());
            kind.is_some_and(|k| k.entries.iter().any(|e| e.key == self.key))
        };
        self.steps.iter().rposition(is_own)
    }

    /// All parts that are there after some steps, the first first.
    fn after(&self, steps: usize) -> Result<Vec<Mesh>, String> {
        let told = |e: &dyn std::fmt::Display| format!("{}, {steps} steps: {e}", self.name);
        let recipe = serde_json::json!({ "nimbet": 1, "steps": &self.steps[..steps] });
        let recipe = Recipe::parse(&recipe.to_string()).map_err(|e| told(&e))?;
        let begin = match self.on.as_str() {
            "" => Mesh::default(),
            name => demo::parts().into_iter().find(|(n, _)| *n == name).ok_or_else(|| told(&"no such part"))?.1,
        };
        let run = run_recipe(&recipe, begin, &Progress::unwatched()).map_err(|e| told(&e))?;
        let all = std::iter::once(run.mesh).chain(run.others.into_values().map(|(mesh, _)| mesh));
        Ok(all.filter(|m| !m.triangles().is_empty()).collect())
    }

    fn picture(&self) -> Result<Picture, String> {
        let own = self.own().ok_or_else(|| format!("{}: its recipe has no such step", self.name))?;
        let (before, after) = (self.after(own)?, self.after(self.steps.len())?);
        let eye = Eye::on(before.iter().chain(&after), SIZE);
        let [a, b] = [&before, &after].map(|parts| drawn(&parts.iter().collect::<Vec<_>>(), &eye));
        if a == b {
            return Err(format!("{}: before and after look alike", self.name));
        }
        Ok(beside(&a, &b))
    }
}

#[test]
fn the_manual_has_half_a_page_for_each_tool() {
    let sections = sections();
    let mut known: BTreeMap<&str, (&str, &str)> = BTreeMap::new();
    for kind in kinds() {
        known.extend(kind.entries.iter().map(|e| (e.key, (e.name, kind.station()))));
    }
    for section in &sections {
        let found = known.remove(section.key.as_str());
        assert_eq!(found, Some((section.name.as_str(), section.page)), "{}", section.key);
        assert!(section.text.contains("**Goes wrong:**"), "{} does not say what goes wrong", section.name);
    }
    assert!(known.is_empty(), "the manual says nothing of {known:?}");
    let contents = std::fs::read_to_string(folder().join("README.md")).unwrap();
    assert!(PAGES.iter().all(|page| contents.contains(&format!("({page}.md)"))));
}

/// Set `NIMBET_PICTURES` to draw them anew.
#[test]
fn the_recipes_of_the_manual_run_and_their_pictures_show_what_comes_of_them() {
    /// Other processors round otherwise at edges.
    const ALIKE: f64 = 1.5;
    let anew = std::env::var_os("NIMBET_PICTURES").is_some();
    let sections = sections();
    let mut stale = Vec::new();
    std::thread::scope(|scope| {
        let half = sections.len().div_ceil(2);
        let work = |some: &[Section]| some.iter().map(|s| (s.key.clone(), s.picture())).collect::<Vec<_>>();
        let hands: Vec<_> = sections.chunks(half).map(|some| scope.spawn(move || work(some))).collect();
        for (key, drawn) in hands.into_iter().flat_map(|hand| hand.join().unwrap()) {
            let drawn = match drawn {
                Ok(drawn) => drawn,
                Err(why) => {
                    stale.push(why);
                    continue;
                }
            };
            let path = folder().join(format!("pictures/{key}.png"));
            if anew {
                std::fs::write(&path, drawn.png()).unwrap();
            }
            let kept = std::fs::read(&path).map(|bytes| Picture::of_png(&bytes));
            if kept.is_ok_and(|kept| kept.off(&drawn) < ALIKE) {
                continue;
            }
            stale.push(key);
        }
    });
    assert!(stale.is_empty(), "pictures that are not of their recipes (NIMBET_PICTURES=1 draws them): {stale:#?}");
    let kept = std::fs::read_dir(folder().join("pictures")).unwrap().count();
    assert_eq!(kept, sections.len(), "pictures of no tool");
}
