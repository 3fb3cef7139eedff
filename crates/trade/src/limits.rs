//! Figures of steps beyond what their descriptions allow, or beyond any use: refused by the name they have there.

use serde_json::{Map, Value};

use crate::TradeError;

/// The most picks, places or points of one list of a step: nobody makes more, one by one.
const MOST: usize = 10_000;
/// The greatest figure a step may name: more than the area of the largest part, mm², which picks carry. There is no least: they carry what
/// is left of sums that should be nought, too.
const GREATEST: f64 = 1e16;

/// Refuses the first figure of a step that is outside the limits its description (`parameter.rs`) sets.
///
/// # Errors
/// [`TradeError::Refused`], with the figure's name, what it is, and what it may be.
pub(crate) fn refuse_outside(value: &Value, described: &Value, path: &str) -> Result<(), TradeError> {
    let described = variant(value, described);
    match value {
        Value::Number(n) => figure(n.as_f64().unwrap_or(f64::INFINITY), n, described, path),
        // Numbers that are none are written so.
        Value::Null if is(described, "number") && !is(described, "null") => refused(format!("{path} is no number")),
        Value::Array(all) => {
            list(all, described, path)?;
            let item = &described["items"];
            all.iter().enumerate().try_for_each(|(n, v)| refuse_outside(v, item, &format!("{path}[{n}]")))
        }
        Value::Object(all) => all.iter().try_for_each(|(name, v)| {
            let path = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
            refuse_outside(v, &described["properties"][name.as_str()], &path)
        }),
        _ => Ok(()),
    }
}

fn figure(x: f64, written: &dyn std::fmt::Display, described: &Value, path: &str) -> Result<(), TradeError> {
    if x.is_nan() || x.abs() > GREATEST {
        return refused(format!("{path} is {written}; figures here are at most {GREATEST:e}"));
    }
    let limit = |name: &str| described[name].as_f64();
    let (above, least, most) = (limit("exclusiveMinimum"), limit("minimum"), limit("maximum"));
    if described["not"]["const"].as_f64() == Some(x) {
        return refused(format!("{path} must not be {x}"));
    }
    if above.is_none_or(|l| x > l) && least.is_none_or(|l| x >= l) && most.is_none_or(|l| x <= l) {
        return Ok(());
    }
    let unit = match described["unit"].as_str() {
        Some("°") => "°".to_owned(),
        Some(unit) => format!(" {unit}"),
        None => String::new(),
    };
    let may = match (above, least, most) {
        (Some(l), _, None) => format!("above {l}{unit}"),
        (Some(l), _, Some(m)) => format!("above {l} and at most {m}{unit}"),
        (None, Some(l), None) => format!("{l}{unit} or more"),
        (None, Some(l), Some(m)) => format!("from {l} to {m}{unit}"),
        (None, None, m) => format!("at most {}{unit}", m.unwrap_or(GREATEST)),
    };
    refused(format!("{path} is {written}{unit}; it must be {may}"))
}

fn list(all: &[Value], described: &Value, path: &str) -> Result<(), TradeError> {
    let most = described["maxItems"].as_u64().map_or(MOST, |n| n as usize);
    if all.len() > most {
        return refused(format!("{path} has {} entries; {most} are the most", all.len()));
    }
    let least = described["minItems"].as_u64().map_or(0, |n| n as usize);
    if all.len() < least {
        return refused(format!("{path} has {} entries; it needs {least}", all.len()));
    }
    if described["asks"] == "direction" && all.iter().all(|x| x.as_f64() == Some(0.0)) {
        return refused(format!("{path} must not be zero: it is a direction"));
    }
    Ok(())
}

fn refused(why: String) -> Result<(), TradeError> {
    Err(TradeError::Refused { why, places: vec![] })
}

fn is(described: &Value, kind: &str) -> bool {
    let types = &described["type"];
    types == kind || types.as_array().is_some_and(|all| all.iter().any(|t| t == kind))
}

/// The one of several descriptions that is meant by a value: of choices, and of what may be left out.
fn variant<'a>(value: &Value, described: &'a Value) -> &'a Value {
    let several = ["oneOf", "anyOf", "allOf"].iter().find_map(|name| described[*name].as_array());
    match several.and_then(|all| all.iter().find(|one| fits(value, one))) {
        Some(one) => variant(value, one),
        None => described,
    }
}

/// Whether a description is of a value's form.
fn fits(value: &Value, described: &Value) -> bool {
    if ["oneOf", "anyOf", "allOf"]
        .iter()
        .filter_map(|name| described[*name].as_array())
        .flatten()
        .any(|d| fits(value, d))
    {
        return true;
    }
    let has = |all: &Map<String, Value>| {
        described["required"]
            .as_array()
            .is_none_or(|needed| needed.iter().all(|n| all.contains_key(n.as_str().unwrap_or(""))))
    };
    match value {
        Value::Null => is(described, "null"),
        Value::Bool(_) => is(described, "boolean"),
        Value::Number(_) => is(described, "number") || is(described, "integer"),
        Value::String(_) => is(described, "string"),
        Value::Array(_) => is(described, "array"),
        Value::Object(all) => is(described, "object") && has(all),
    }
}
