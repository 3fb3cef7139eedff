//! The board as a screen uses it: what is asked, what is answered, and questions nobody means well.

use nimbet_kernel::Progress;
use nimbet_trade::TradeError;
use nimbet_trade::shape::{BoardRequest, BoardView, Line};
use proptest::prelude::*;
use serde_json::{Value, json};

fn ask(lines: &Value, more: &Value) -> Result<BoardView, TradeError> {
    let mut request = json!({ "plane": { "at": [1, 2, 3], "normal": [0, 0, 2] }, "lines": lines });
    request.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
    let request: BoardRequest = serde_json::from_value(request).unwrap();
    request.view(None, &Progress::unwatched())
}

fn plate() -> Value {
    json!([
        { "name": "a", "draw": { "frame": { "centre": [0, 0], "size": [40, 20] } } },
        { "name": "b", "draw": { "circle": { "centre": [12, 0], "diameter": 6 } } },
        { "name": "c", "draw": { "mirrored": { "of": ["b"], "from": [0, 0], "to": [0, 1] } } },
    ])
}

#[test]
fn a_drawing_is_shown_with_its_rows_handles_and_regions() {
    let view = ask(&plate(), &json!({})).unwrap();
    assert_eq!((view.origin, view.right, view.up), ([1.0, 2.0, 3.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]));
    let rows: Vec<String> = view.rows.iter().map(|r| format!("{} {} {}", r.name, r.kind, r.told)).collect();
    assert_eq!(rows, ["a frame 40 × 20 mm", "b circle ⌀ 6 mm", "c mirrored b"]);
    assert_eq!(view.told.unwrap(), "closed: 3 regions, 743 mm²");
    assert_eq!(view.regions.iter().map(Vec::len).collect::<Vec<_>>(), [3, 1, 1]);
    assert_eq!(view.free_name, "d");
    let handles: Vec<String> = view.handles.iter().map(|h| format!("{} {}", h.line, h.handle)).collect();
    assert_eq!(handles, ["a centre", "a corner", "b centre", "b rim", "c from", "c to"]);
}

#[test]
fn a_hand_draws_drags_and_points() {
    // A circle about the corner that was caught, its diameter typed.
    let draw = json!({ "draw": { "pen": "circle", "clicks": [{ "at": [20, 10] }], "typed": { "diameter": 8 } } });
    let hand = json!({ "hand": { "at": [25.2, 10.3], "reach": 1, "grid": 0.5, "does": draw } });
    let drawn = ask(&plate(), &hand).unwrap().hand.unwrap();
    assert!(drawn.last && drawn.wrong.is_none() && drawn.curves[0].len() > 20);
    let circle = json!({ "circle": { "centre": [20.0, 10.0], "diameter": 8.0 } });
    assert_eq!(serde_json::to_value(&drawn.shape).unwrap(), circle);
    // The rim of b drawn to the corner of a: it catches that, and is as far from its centre then.
    let held = |line: &str| json!({ "drag": { "line": line, "handle": "rim" } });
    let drag = json!({ "hand": { "at": [19.7, 9.8], "reach": 1, "grid": 0.5, "does": held("b") } });
    let view = ask(&plate(), &drag).unwrap();
    assert_eq!(view.rows[1].told, "⌀ 25.6 mm");
    let caught = view.hand.unwrap();
    assert_eq!(caught.at, [20.0, 10.0]);
    assert!(caught.caught.ends_with("of a.1") || caught.caught.ends_with("of a.2"), "{}", caught.caught);
    // What cannot be drawn so stays, and says why; a handle that is not there is refused.
    let flat = json!({ "hand": { "at": [12, 0], "reach": 0, "grid": 0, "does": held("b") } });
    let view = ask(&plate(), &flat).unwrap();
    assert_eq!(view.rows[1].told, "⌀ 6 mm");
    assert!(view.hand.unwrap().wrong.unwrap().contains("its diameter is 0 mm"));
    let gone = json!({ "hand": { "at": [0, 0], "reach": 0, "grid": 0, "does": held("z") } });
    assert_eq!(ask(&plate(), &gone).unwrap_err().to_string(), "line z has no rim");
    // Pointing tells what lies under it.
    let point = json!({ "hand": { "at": [5, 10.2], "reach": 1, "grid": 0 } });
    let point = ask(&plate(), &point).unwrap().hand.unwrap();
    assert_eq!((point.over.as_deref(), point.at), (Some("a"), [5.0, 10.0]));
}

#[test]
fn a_change_is_made_or_says_why_not() {
    let soften = json!({ "change": { "soften": { "radius": 2 } } });
    let view = ask(&plate(), &soften).unwrap();
    assert_eq!((view.done.as_deref(), view.lines.len()), (Some("4 corners rounded"), 3));
    let row = json!({ "change": { "write": { "line": "b", "text": "circle at 12, 0 diameter" } } });
    assert_eq!(ask(&plate(), &row).unwrap_err().to_string(), "its diameter is missing");
    let wrong = json!([{ "name": "a", "draw": { "circle": { "centre": [0, 0], "diameter": -1 } } }]);
    let why = "line a: its diameter is -1 mm; from 0.0001 to 2000000 mm can be drawn";
    assert_eq!(ask(&wrong, &json!({})).unwrap_err().to_string(), why);
}

#[test]
fn what_is_held_is_shown_kept_and_quarrels_aloud() {
    let holds = json!([{ "name": "h1", "rule": { "length": { "of": "a.1", "mm": 40 } } }, { "name": "h2", "rule": { "diameter": { "of": "b", "mm": 6 } } }]);
    let held = |more: Value| {
        let mut more = more;
        more.as_object_mut().unwrap().insert("holds".into(), holds.clone());
        ask(&plate(), &more).unwrap()
    };
    let view = held(json!({}));
    // Middle and height of the frame, centre of the circle, the mirror line's other place: it begins in the middle of the frame.
    assert_eq!(view.loose.unwrap().count, 3 + 2 + 2);
    let written: Vec<String> = view.draughts.iter().map(|d| format!("{}{:?} {}", d.before, d.figure, d.text)).collect();
    assert_eq!(written, ["Some(40.0) length of a.1  40", "⌀ Some(6.0) diameter of b  6"]);
    assert!(view.list.ends_with("h1  length of a.1  40\nh2  diameter of b  6\n"), "{}", view.list);
    // A figure with another value moves the lines; the copies follow.
    let wide = held(json!({ "change": { "figure": { "hold": "h1", "value": 50 } } }));
    assert_eq!((wide.rows[0].told.as_str(), wide.done.as_deref()), ("50 × 20 mm", Some("40 mm → 50 mm")));
    // What quarrels is named, and nothing is changed; letting one go makes room.
    let narrow = json!({ "hold": { "text": "length of a.3 30" } });
    let quarrel = held(json!({ "change": narrow }));
    let named: Vec<_> = quarrel.quarrel.iter().map(|c| (c.name.as_deref(), c.text.as_str())).collect();
    assert_eq!(named, [(Some("h1"), "length of a.1  40"), (None, "length of a.3 30")]);
    assert_eq!((quarrel.rows[0].told.as_str(), quarrel.done), ("40 × 20 mm", None));
    let freed = held(json!({ "change": narrow, "let_go": ["h1"] }));
    assert_eq!((freed.rows[0].told.as_str(), freed.holds.len()), ("30 × 20 mm", 2));
    // What can be held is offered with its figure; the hand that pulls at what is held stays.
    let offers = held(json!({ "chosen": ["a.2"] })).offers;
    assert_eq!((offers[0].word.as_str(), offers[0].figure), ("length", Some(20.0)));
    let rim = json!({ "drag": { "line": "b", "handle": "rim" } });
    let pulled = held(json!({ "hand": { "at": [19, 0], "reach": 0, "grid": 0, "does": rim } }));
    assert_eq!(pulled.rows[1].told, "⌀ 6 mm");
    let gone = json!([{ "name": "h1", "rule": { "level": { "between": ["end of a.1", "middle of z"] } } }]);
    assert_eq!(ask(&plate(), &json!({ "holds": gone })).unwrap_err().to_string(), "line h1: there is no line z");
}

fn any_figure() -> impl Strategy<Value = f64> {
    let far = prop_oneof![Just(1e-300), Just(1e-12), Just(1e12), Just(1e308), Just(-1e308)];
    prop_oneof![Just(0.0), Just(-1.0), far, -100.0..100.0_f64]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    /// Whatever figures are sent there is an answer in finite numbers, or a refusal.
    #[test]
    fn no_figure_is_answered_with_one_that_is_none(
        figures in prop::collection::vec(any_figure(), 10),
        pen in prop::sample::select(vec!["chain", "arc", "circle", "frame", "slot", "polygon", "ellipse", "curve", "spiral"]),
        name in prop::sample::select(vec!["length", "angle", "diameter", "width", "height", "radius", "sides", "pitch", "turns"]),
        round in any::<bool>(),
    ) {
        let f = |n: usize| figures[n];
        let clicks = json!([{ "at": [f(0), f(1)] }, { "at": [f(2), f(3)], "round": round }]);
        let draw = json!({ "draw": { "pen": pen, "clicks": clicks, "round": round, "typed": { name: f(4) } } });
        let questions = [
            json!({ "hand": { "at": [f(5), f(6)], "reach": f(7).abs(), "grid": f(8).abs(), "does": draw } }),
            json!({ "change": { "band": { "lines": ["a"], "left": f(4), "right": f(5), "ends": "square" } } }),
            json!({ "change": { "soften": { "radius": f(4), "sharper": f(5) } } }),
            json!({ "change": { "flow": { "between": [[f(0), f(1)], [f(2), f(3)]], "pull": [f(4), f(5)], "even": round } } }),
            json!({ "change": { "cut_back": { "at": [f(5), f(6)] } } }),
            json!({ "change": { "split": { "at": [f(5), f(6)] } } }),
            json!({ "change": { "carry_on": { "at": [f(5), f(6)] } } }),
            json!({ "change": { "drag": { "line": "b", "handle": "rim", "to": [f(5), f(6)] } } }),
            json!({ "change": { "hold": { "text": format!("length of a.1 {}", f(4)) } } }),
            json!({ "change": { "hold": { "text": format!("distance centre of b from a.2 {}", f(5)) } } }),
            json!({ "change": { "drag": { "line": "b", "handle": "centre", "to": [f(5), f(6)] } },
                "holds": [{ "name": "h", "rule": { "distance": { "between": ["centre of b", "zero"], "mm": 12 } } }] }),
            json!({ "holds": [{ "name": "h", "rule": { "fixed": { "spot": "centre of b", "at": [f(5), f(6)] } } },
                { "name": "i", "rule": { "corner": { "lines": ["a.1", "a.2"], "degrees": f(4) } } }] }),
            json!({ "change": { "draw": { "draw": [{ "circle": { "centre": [f(0), f(1)], "diameter": f(2).abs() } }],
                "by": [{ "at": [f(0), f(1)], "caught": "on a.1, level with centre of b", "typed": { name: f(4) } }] } } }),
            json!({ "change": { "move": { "lines": ["a"], "by": [f(5), f(6)] } } }),
        ];
        for question in questions {
            let Ok(view) = ask(&plate(), &question) else { continue };
            let text = serde_json::to_value(&view).unwrap();
            prop_assert!(serde_json::from_value::<Vec<Line>>(text["lines"].clone()).is_ok(), "{question}");
            if let Some(hand) = text["hand"].as_object() {
                prop_assert!(hand["at"].as_array().unwrap().iter().all(Value::is_number), "{question}");
                let figures = hand["figures"].as_array().unwrap();
                prop_assert!(figures.iter().all(|f| f["value"].is_number()), "{question} {figures:?}");
            }
        }
    }
}
