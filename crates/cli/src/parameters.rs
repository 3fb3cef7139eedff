//! The page of all steps and their parameters, from what the tools say of them.

use std::fmt::Write;

use nimbet_trade::kinds;
use serde_json::Value;

/// The page, as Markdown.
pub fn page() -> String {
    let mut page = String::from(
        "# Every step and its parameters\n\nPrinted by `nimbet parameters`. What each step is for stands in [recipe.md](recipe.md). \
         Figures outside what they may be are refused by their name before anything is done.\n",
    );
    for kind in kinds() {
        let _ = write!(page, "\n## `{}`\n\n{}\n", kind.kind, kind.what);
        let mut rows = String::new();
        let described = kind.parameters();
        properties(&described, "", &mut rows);
        if !rows.is_empty() {
            page += "\n| parameter | may be | what it is |\n|---|---|---|\n";
            page += &rows;
        }
    }
    page
}

fn properties(described: &Value, path: &str, rows: &mut String) {
    let needed: Vec<&str> = described["required"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
    for (name, own) in described["properties"].as_object().into_iter().flatten() {
        let path = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
        row(own, &path, needed.contains(&name.as_str()), rows);
    }
}

fn row(own: &Value, path: &str, needed: bool, rows: &mut String) {
    let held = held(own);
    let mut may = form(held);
    if !needed {
        may += match own.get("default") {
            Some(Value::Null) | None => "; may be absent",
            Some(_) => "; absent ",
        };
        match own.get("default") {
            Some(Value::Null) | None => {}
            Some(default) => may += &format!("`{default}`"),
        }
    }
    let what = own["description"].as_str().or(held["description"].as_str()).unwrap_or_default().replace('\n', " ");
    let _ = writeln!(rows, "| `{path}` | {may} | {what} |");
    inside(held, path, rows);
}

/// What stands within a parameter.
fn inside(held: &Value, path: &str, rows: &mut String) {
    if held["asks"].as_str().is_some_and(|asks| matches!(asks, "face" | "rim" | "brush" | "gap" | "run")) {
        return;
    }
    properties(held, path, rows);
    for choice in variants(held) {
        properties(choice, path, rows);
    }
    if held["items"].is_object() && form(&held["items"]) != "a pick" {
        inside(self::held(&held["items"]), &format!("{path}[]"), rows);
    }
}

fn variants(held: &Value) -> impl Iterator<Item = &Value> {
    ["oneOf", "anyOf"].into_iter().filter_map(|name| held[name].as_array()).flatten()
}

/// Without the possibility of being left out.
fn held(own: &Value) -> &Value {
    let several = own["anyOf"].as_array().map(|all| all.iter().filter(|d| d["type"] != "null").collect::<Vec<_>>());
    match several.as_deref() {
        Some([one]) => one,
        _ => own,
    }
}

/// What a value may be, in a few words.
fn form(held: &Value) -> String {
    let is =
        |kind: &str| held["type"] == kind || held["type"].as_array().is_some_and(|all| all.iter().any(|t| t == kind));
    match held["asks"].as_str() {
        Some("face" | "rim" | "brush" | "gap" | "run") => return "a pick".into(),
        Some("direction") => return "a direction `[x, y, z]`, not 0".into(),
        Some("part") => return "the number of a part".into(),
        Some("position") => return "a place `[x, y, z]`, mm".into(),
        _ => {}
    }
    if is("number") || is("integer") {
        return figure(held, if is("integer") { "a whole number" } else { "a number" });
    }
    if is("boolean") {
        return "true or false".into();
    }
    if is("string") && held["enum"].is_null() && held["const"].is_null() {
        return "text".into();
    }
    if is("array") {
        let item = form(self::held(&held["items"]));
        return match (held["minItems"].as_u64(), held["maxItems"].as_u64()) {
            (Some(n), Some(m)) if n == m => format!("{n} of: {item}"),
            _ => format!("a list of: {item}"),
        };
    }
    let choices: Vec<String> = variants(held).map(choice).collect();
    match choices.len() {
        0 => held["enum"]
            .as_array()
            .map_or("as below".into(), |all| all.iter().map(|v| format!("`{v}`")).collect::<Vec<_>>().join(", ")),
        _ => choices.join(" or "),
    }
}

fn choice(one: &Value) -> String {
    if let Some(value) = one.get("const") {
        return format!("`{value}`");
    }
    if let Some(all) = one["enum"].as_array() {
        return all.iter().map(|v| format!("`{v}`")).collect::<Vec<_>>().join(" or ");
    }
    match one["properties"]
        .as_object()
        .and_then(|p| p.keys().next())
        .filter(|_| one["required"].as_array().is_some_and(|r| r.len() == 1))
    {
        Some(name) => format!("`{{ \"{name}\": … }}`"),
        None => form(one),
    }
}

fn figure(held: &Value, what: &str) -> String {
    let unit = match held["unit"].as_str() {
        Some("°") => "°".into(),
        Some(unit) => format!(" {unit}"),
        None => String::new(),
    };
    let of = |name: &str| held[name].as_f64();
    let limits = match (of("exclusiveMinimum"), of("minimum"), of("maximum")) {
        (Some(l), _, Some(m)) => format!("above {l}, at most {m}{unit}"),
        (Some(l), _, None) => format!("above {l}{unit}"),
        (None, Some(l), Some(m)) => format!("{l} to {m}{unit}"),
        (None, Some(l), None) => format!("{l}{unit} or more"),
        (None, None, Some(m)) => format!("at most {m}{unit}"),
        (None, None, None) if held["not"]["const"] == 0 => format!("not 0{unit}"),
        _ if unit.is_empty() => String::new(),
        _ => unit.trim().into(),
    };
    if limits.is_empty() { what.into() } else { format!("{what}, {limits}") }
}
