//! Figures of steps that are beyond any use, whatever they mean.

use serde_json::Value;

use crate::TradeError;

/// The most picks, places or points of one list of a step: nobody makes more, one by one.
const MOST: usize = 10_000;
/// The greatest figure a step may name: more than the area of the largest part, mm², which picks carry. There is no least: they carry what
/// is left of sums that should be nought, too.
const GREATEST: f64 = 1e16;

/// Refuses figures of a step that are beyond any use, by the name they have there.
pub(crate) fn refuse_beyond_use(step: &Value, path: &str) -> Result<(), TradeError> {
    match step {
        Value::Number(n) => {
            if n.is_f64() && n.as_f64().is_none_or(|x| x.abs() > GREATEST) {
                let why = format!("{path} is {n}; figures here are at most {GREATEST:e}");
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
        assert!(told(json!({ "a": { "chord": -1e300 } })).unwrap_err().starts_with("a.chord is -1e+300"));
        let pick = json!({ "wall": { "surface": { "centre": [-5.7e-16, 2.0, 1e-300] } } });
        assert_eq!(told(pick), Ok(()), "what is left of a sum that should be nought");
    }
}
