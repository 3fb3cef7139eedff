//! The documentation is true: its examples run as printed, its tables list what there is.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

use std::path::Path;
use std::process::Command;

#[path = "documented/manual.rs"]
mod manual;
#[path = "documented/picture.rs"]
mod picture;

fn documentation(name: &str) -> String {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs").join(name);
    std::fs::read_to_string(&path).unwrap_or_else(|e| panic!("{}: {e}", path.display()))
}

/// The fenced blocks of a page: language, the last word in backquotes before the block, and text.
fn blocks(page: &str) -> Vec<(String, String, String)> {
    let mut found = Vec::new();
    let mut named = String::new();
    let mut lines = page.lines();
    while let Some(line) = lines.next() {
        if let Some(language) = line.strip_prefix("```") {
            let text: Vec<&str> = lines.by_ref().take_while(|l| *l != "```").collect();
            found.push((language.to_owned(), named.clone(), text.join("\n")));
        } else if let Some(name) = line.strip_suffix("`:").and_then(|l| l.rsplit('`').next()) {
            named = name.to_owned();
        }
    }
    found
}

/// What a command prints, with the exit code at the end unless it is 0.
fn output_of(command: &str, folder: &Path) -> String {
    let words: Vec<&str> = command.split_whitespace().collect();
    assert_eq!(words[0], "nimbet", "{command}");
    let out = Command::new(env!("CARGO_BIN_EXE_nimbet")).args(&words[1..]).current_dir(folder).output().unwrap();
    let mut text = String::from_utf8(out.stdout).unwrap() + &String::from_utf8(out.stderr).unwrap();
    match out.status.code() {
        Some(0) => {}
        code => text += &format!("[exit code {}]\n", code.unwrap_or(-1)),
    }
    text
}

/// Whether `text` is what the page says, where `…` stands for anything within a line, or alone for any lines.
fn matches(wanted: &[&str], text: &[&str]) -> bool {
    match (wanted, text) {
        ([], []) => true,
        ([skip, rest @ ..], _) if skip.trim() == "…" => (0..=text.len()).any(|n| matches(rest, &text[n..])),
        ([want, wants @ ..], [line, lines @ ..]) => {
            let fits = match want.split_once('…') {
                Some((head, tail)) => {
                    line.len() >= head.len() + tail.len() && line.starts_with(head) && line.ends_with(tail)
                }
                None => want == line,
            };
            fits && matches(wants, lines)
        }
        _ => false,
    }
}

#[test]
fn every_example_of_the_recipe_page_does_what_the_page_says() {
    let folder = tempfile::tempdir().unwrap();
    let blocks = blocks(&documentation("recipe.md"));
    for (_, name, text) in blocks.iter().filter(|b| b.0 == "json") {
        std::fs::write(folder.path().join(name), text).unwrap();
    }
    let mut run = 0;
    for (_, _, text) in blocks.iter().filter(|b| b.0 == "console") {
        for example in text.split("$ ").filter(|e| !e.is_empty()) {
            let (command, wanted) = example.split_once('\n').unwrap();
            let got = output_of(command, folder.path());
            let (wanted_lines, got_lines): (Vec<&str>, Vec<&str>) = (wanted.lines().collect(), got.lines().collect());
            assert!(matches(&wanted_lines, &got_lines), "$ {command}\nthe page says:\n{wanted}\nit prints:\n{got}");
            run += 1;
        }
    }
    assert_eq!(run, 14);
}

#[test]
fn a_released_file_is_sealed_for_whoever_checks_it_and_json_tells_everything() {
    let folder = tempfile::tempdir().unwrap();
    let nimbet = |command: &str| output_of(&format!("nimbet {command}"), folder.path());
    nimbet("demo .");
    std::fs::write(folder.path().join("plan.json"), r#"{ "nimbet": 1, "steps": [{ "kind": "seal.plan" }] }"#).unwrap();
    for part in ["vent-cowl", "porthole-ring", "mooring-buoy"] {
        for ending in ["3mf", "stl", "obj", "ply"] {
            nimbet(&format!("run plan.json {part}.ply -o {part}-out.{ending}"));
            let checked = nimbet(&format!("check {part}-out.{ending}"));
            assert!(checked.starts_with(&format!("{part}-out.{ending}: sealed\n")), "{checked}");
            assert!(!checked.contains("exit code"), "{checked}");
        }
    }
    let told = nimbet("check vent-cowl.ply --json");
    let told: serde_json::Value = serde_json::from_str(told.split("[exit code 1]").next().unwrap()).unwrap();
    assert_eq!(told["examination"]["rims"].as_array().map(Vec::len), Some(2));
    let remedy = told["examination"]["findings"][1]["remedies"][0]["operation"].clone();
    let recipe = serde_json::json!({ "nimbet": 1, "steps": [remedy] });
    std::fs::write(folder.path().join("one.json"), recipe.to_string()).unwrap();
    let one = nimbet("run one.json vent-cowl.ply -o one.stl");
    assert!(one.contains("open: 2 rims, 717 mm → open: 1 rim"), "{one}");
    assert!(!folder.path().join("one.stl").exists(), "an open part is not written");
    let bronze = r#"{ "nimbet": 1, "steps": [{ "kind": "weigh.set_material", "material": "bronze-tin-10" }] }"#;
    std::fs::write(folder.path().join("bronze.json"), bronze).unwrap();
    let set = nimbet("run bronze.json vent-cowl.ply mooring-buoy.ply -o set.3mf");
    assert!(set.contains("vent-cowl: ") && set.contains("[exit code 1]"), "{set}");
    assert!(!folder.path().join("set.3mf").exists(), "nor is a set with one in it");
    let set = nimbet("run plan.json vent-cowl.ply porthole-ring.ply mooring-buoy.ply -o set.3mf --json");
    let set: serde_json::Value = serde_json::from_str(&set).unwrap();
    assert_eq!(set["sheet"]["parts"].as_array().map(Vec::len), Some(3), "{set}");
    assert_eq!(set["inputs"][2]["steps"][0]["title"], "Seal plan");
    let listed = nimbet("bodies set.3mf");
    assert!(["vent-cowl", "porthole-ring", "mooring-buoy"].iter().all(|part| listed.contains(part)), "{listed}");
}

/// Parameters that are explained once for all tools.
const EVERYWHERE: [&str; 3] = ["kind", "keep_lost", "part"];

#[test]
fn the_schema_and_the_tables_of_materials_and_processes_are_up_to_date() {
    let folder = tempfile::tempdir().unwrap();
    // Compared as values: the order of keys depends on what else is built.
    let value = |text: String| serde_json::from_str::<serde_json::Value>(&text).unwrap();
    let schema = value(output_of("nimbet schema", folder.path()));
    assert!(schema == value(documentation("recipe.schema.json")), "run `nimbet schema > docs/recipe.schema.json`");
    let parameters = documentation("parameters.md");
    assert!(
        output_of("nimbet parameters", folder.path()) == parameters,
        "run `nimbet parameters > docs/parameters.md`"
    );
    // Every tool has a row, and every parameter of it is named there.
    let page = documentation("recipe.md");
    let kinds = schema["$defs"]["Operation"]["oneOf"].as_array().unwrap();
    assert_eq!(kinds.len(), nimbet_trade::kinds().len());
    for kind in kinds {
        let name = kind["properties"]["kind"]["const"].as_str().unwrap();
        let row = page.lines().find(|l| l.starts_with(&format!("| `{name}` |")));
        let row = row.unwrap_or_else(|| panic!("docs/recipe.md has no row of {name}"));
        for parameter in kind["properties"].as_object().unwrap().keys().filter(|k| !EVERYWHERE.contains(&k.as_str())) {
            assert!(row.contains(&format!("`{parameter}`")), "docs/recipe.md says nothing of {parameter} of {name}");
        }
    }
    let page = documentation("materials.md");
    for m in nimbet_trade::weigh::MATERIALS {
        let row = format!("| `{}` | {} | {} |", m.key, m.name, m.density);
        assert!(page.contains(&row), "docs/materials.md has no row that begins {row}");
    }
    let page = documentation("processes.md");
    for p in nimbet_trade::wall::PROCESSES {
        let drain = if p.drain > 0.0 { p.drain.to_string() } else { "–".into() };
        let row =
            format!("| `{}` | {} | {} | {} | {} | {} | {drain} |", p.key, p.name, p.wall, p.pin, p.slot, p.corner);
        assert!(page.contains(&row), "docs/processes.md has no row {row}");
    }
    let page = documentation("fasten.md");
    for f in nimbet_trade::fasten::FITTINGS {
        let [fine, medium, coarse] = f.clearance;
        let row = format!("| M{} | {fine} | {medium} | {coarse} | ", f.screw);
        assert!(page.contains(&row), "docs/fasten.md has no row that begins {row}");
    }
    for p in nimbet_trade::fasten::POCKETS {
        let row = format!("| M{} | {} | {} | {} |", p.screw, p.diameter, p.depth, p.mouth);
        assert!(page.contains(&row), "docs/fasten.md has no row {row}");
    }
    for a in nimbet_trade::fasten::ALLOWANCES {
        let three = |x: [f64; 3]| format!("{}, {}, {}", x[0], x[1], x[2]);
        let row = format!("| `{}` | {} | {} | {} |", a.process, a.bore, three(a.radial), three(a.axial));
        assert!(page.contains(&row), "docs/fasten.md has no row {row}");
    }
}
