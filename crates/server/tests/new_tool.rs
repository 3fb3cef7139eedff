//! A new tool in one file: it is registered, run by a recipe, and stands in what the API says of itself.
#![allow(clippy::unwrap_used)] // a failed test says so by panicking

use nimbet_kernel::shapes::block;
use nimbet_kernel::{Point, Progress};
use nimbet_ledger::{Action, Recipe, perform};
use nimbet_trade::parameter::Length;
use nimbet_trade::tool::{Entry, Given, Needs, Tool};
use nimbet_trade::{Operation, Outcome, TradeError, add, examine};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

/// Parameters of `shape.lift`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
struct Lift {
    /// How far up, mm.
    #[schemars(title = "Up by", with = "Length")]
    by: f64,
}

impl Tool for Lift {
    const KIND: &'static str = "shape.lift";
    const WHAT: &'static str = "Lift the part.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "lift",
        name: "Lift",
        hint: "The part goes up",
        group: "Place",
        words: &["raise"],
        needs: Needs::Anything,
        mark: "",
        start: |b| json!({ "by": b.wall() }),
    }];

    fn title(&self) -> String {
        format!("Lift by {} mm", self.by)
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let mesh = given.mesh.clone().map_points(|p| p + Point::new(0.0, 0.0, self.by))?;
        Ok(Outcome::of(mesh, format!("lifted by {} mm", self.by)))
    }
}

#[test]
fn a_new_tool_is_one_file() {
    add::<Lift>();
    let recipe = Recipe::parse(r#"{ "nimbet": 1, "steps": [{ "kind": "shape.lift", "by": 2.5 }] }"#).unwrap();
    let Action::Operation(work) = &recipe.steps[0].action else { unreachable!("an operation") };
    assert_eq!((work.operation.title(), work.operation.tool()), ("Lift by 2.5 mm".into(), Some(&Lift { by: 2.5 })));
    let (part, quiet) = (block(Point::ZERO, Point::ONE), Progress::unwatched());
    let done = perform(&recipe.steps[0].action, &part, &examine(&part, &quiet).unwrap(), &[], &quiet).unwrap();
    assert_eq!(done.examination.figures.least, [0.0, 0.0, 2.5]);

    // Figures it does not allow are refused by their name, without a word of its own.
    let down = Action::Operation(Operation::of(Lift { by: -1.0 }).into());
    let fault = perform(&down, &part, &examine(&part, &quiet).unwrap(), &[], &quiet).unwrap_err();
    assert_eq!(fault.to_string(), "by is -1.0 mm; it must be above 0 mm");

    let described: serde_json::Value = serde_json::from_str(&nimbet_server::openapi_json()).unwrap();
    let kinds = described["components"]["schemas"]["Operation"]["oneOf"].as_array().unwrap();
    let lift = kinds.iter().find(|k| k["properties"]["kind"]["const"] == "shape.lift").unwrap();
    assert_eq!((&lift["description"], &lift["required"]), (&json!("Lift the part."), &json!(["kind", "by"])));
    assert!(lift["properties"]["by"]["description"].as_str().unwrap().ends_with("mm."));
    assert_eq!(lift["properties"]["by"]["exclusiveMinimum"], 0);
    // What it cannot be is told.
    let fault = Recipe::parse(r#"{ "nimbet": 1, "steps": [{ "kind": "shape.lift", "buy": 2.5 }] }"#).unwrap_err();
    assert!(fault.to_string().contains("buy"), "{fault}");
}
