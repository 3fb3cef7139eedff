//! Figures of steps that are beyond any use, whatever they mean.

use serde_json::Value;

use crate::TradeError;

/// The most picks, places or points of one list of a step: nobody makes more, one by one.
const MOST: usize = 10_000;
/// The greatest figure a step may name, and the least that is not nought.
const FIGURES: [f64; 2] = [1e9, 1e-15];

/// Refuses figures of a step that are beyond any use, by the name they have there.
pub(crate) fn refuse_beyond_use(step: &Value, path: &str) -> Result<(), TradeError> {
    match step {
        Value::Number(n) => {
            let [most, least] = FIGURES;
            let size = n.as_f64().map_or(f64::INFINITY, f64::abs);
            if n.is_f64() && !(size == 0.0 || (least..=most).contains(&size)) {
                let why = format!("{path} is {n}; figures here are at most {most:e}, and at least {least:e} or nought");
                return Err(TradeError::Refused { why, places: vec![] });
            }
            Ok(())
        }
        Value::Array(all) if all.len() > MOST => {
            let why = format!("{path} has {} entries; {MOST} are the most", all.len());
            Err(TradeError::Refused { why, places: vec![] })
        }
        Value::Array(all) => {
            all.iter().enumerate().try_for_each(|(n, v)| refuse_beyond_use(v, &format!("{path}[{n}]")))
        }
        Value::Object(all) => all.iter().try_for_each(|(name, v)| {
            let path = if path.is_empty() { name.clone() } else { format!("{path}.{name}") };
            refuse_beyond_use(v, &path)
        }),
        _ => Ok(()),
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)] // a failed test says so by panicking

    use serde_json::json;

    use super::*;

    #[test]
    fn figures_beyond_use_are_refused_by_name() {
        let told = |step| refuse_beyond_use(&step, "").map_err(|e| e.to_string());
        assert_eq!(told(json!({ "kind": "shape.place", "by": [0.0, 1.5, -3.0], "with": [4_000_000_000u32] })), Ok(()));
        assert!(told(json!({ "by": [0.0, 1e308, 0.0] })).unwrap_err().starts_with("by[1] is 1e+308"));
        assert!(told(json!({ "with": vec![1; 10_001] })).unwrap_err().contains("10001 entries; 10000 are the most"));
        assert!(told(json!({ "a": { "chord": 1e-300 } })).unwrap_err().starts_with("a.chord is 1e-300"));
    }
}
