//! Figures and rules: known answers, what always holds, what quarrels, what cannot be.

use nimbet_kernel::Progress;
use nimbet_profile::Flat;
use nimbet_profile::change::{Change, ChangeError};
use nimbet_profile::drawing::{Drawing, Shape};
use nimbet_profile::hand::Click;
use nimbet_profile::rules::{KEPT, Quarrel};
use nimbet_profile::text::{read, written};
use proptest::prelude::*;

fn drawing(list: &str) -> Drawing {
    read(list).unwrap()
}

fn changed(drawing: &Drawing, change: &Change) -> Drawing {
    drawing.changed(change, &Progress::unwatched()).unwrap().0
}

fn refused(drawing: &Drawing, change: &Change) -> ChangeError {
    drawing.changed(change, &Progress::unwatched()).unwrap_err()
}

fn hold(text: &str) -> Change {
    Change::Hold { text: text.into() }
}

fn figure(hold: &str, value: f64) -> Change {
    Change::Figure { hold: hold.into(), value }
}

/// With rows held one after the other.
fn held(list: &str, rules: &[&str]) -> Drawing {
    rules.iter().fold(drawing(list), |d, rule| changed(&d, &hold(rule)))
}

fn quarrel(drawing: &Drawing, change: &Change) -> Vec<String> {
    match refused(drawing, change) {
        ChangeError::Quarrel(Quarrel { holds }) => holds,
        other => panic!("{other}"),
    }
}

fn line(drawing: &Drawing, name: &str) -> [Flat; 2] {
    match &drawing.lines.iter().find(|l| l.name == name).unwrap().draw {
        Shape::Line { from, to } => [Flat::from(*from), Flat::from(*to)],
        other => panic!("{other:?}"),
    }
}

fn circle(drawing: &Drawing, name: &str) -> (Flat, f64) {
    match &drawing.lines.iter().find(|l| l.name == name).unwrap().draw {
        Shape::Circle { centre, diameter } => (Flat::from(*centre), *diameter),
        other => panic!("{other:?}"),
    }
}

fn loose(drawing: &Drawing) -> usize {
    drawing.loose(&Progress::unwatched()).unwrap().map_or(usize::MAX, |l| l.count)
}

const TRIANGLE: &str = "a line from 0, 0 to 40, 1\nb line from 40, 1 to 20, 28\nc line from 20, 28 to 0, 0\n";

#[test]
fn a_triangle_is_made_by_its_three_sides() {
    let made = held(
        TRIANGLE,
        &["fixed beginning of a at 0, 0", "level a", "length of a 30", "length of b 40", "length of c 50"],
    );
    let [[a, b], [_, c]] = [line(&made, "a"), line(&made, "b")];
    // 30, 40, 50: square at b, and on the side it was.
    assert!(a.distance(Flat::ZERO) < 1e-9 && b.distance(Flat::new(30.0, 0.0)) < 1e-9, "{a} {b}");
    assert!(c.distance(Flat::new(30.0, 40.0)) < 1e-8, "{c}");
    assert_eq!(loose(&made), 0);
    // Corners stay corners without a rule that says so.
    assert_eq!(line(&made, "a")[1], line(&made, "b")[0]);
    // A figure that is given another value takes the others along.
    let longer = changed(&made, &figure("h5", 60.0));
    let [_, c] = line(&longer, "b");
    assert!((c.length() - 60.0).abs() < 1e-8 && (c.distance(Flat::new(30.0, 0.0)) - 40.0).abs() < 1e-8, "{c}");
    // No triangle has such sides: those that quarrel are named, and no other.
    assert_eq!(quarrel(&made, &figure("h5", 80.0)), ["h3", "h4", "h5"]);
    // What is so already need not be held, and says why; what would be otherwise quarrels.
    assert_eq!(refused(&made, &hold("square a and b")).to_string(), "that is so already, by h3, h4, h5");
    assert_eq!(quarrel(&made, &hold("upright a")), ["h2", "h3", "h6"]);
}

#[test]
fn nothing_moves_that_need_not() {
    let two = "a line from 0, 0 to 40, 0\nb circle at 100, 50 diameter 10\nc line from 0, 20 to 30, 20.5\n";
    let made = held(two, &["diameter of b 6.6", "level c"]);
    assert_eq!(line(&made, "a"), line(&drawing(two), "a"));
    assert_eq!(circle(&made, "b"), (Flat::new(100.0, 50.0), 6.6));
    // Both ends go half of the way.
    assert_eq!(line(&made, "c"), [Flat::new(0.0, 20.25), Flat::new(30.0, 20.25)]);
    // Nothing is written anew where all is kept already.
    assert_eq!(changed(&made, &Change::Aside { hold: "h1".into(), by: [3.0, 4.0] }).lines, made.lines);
}

#[test]
fn lines_touch_and_circles_share() {
    let list = "a line from 0, 0 to 60, 0\nb circle at 20, 11 diameter 20\nc circle at 44, 12 diameter 12\nd circle at 21, 10 diameter 4\n";
    let made = held(
        list,
        &[
            "level a",
            "tangent a and b",
            "tangent b and c",
            "tangent a and c",
            "same centre b and d",
            "same size c and d",
        ],
    );
    let y = line(&made, "a")[0].y;
    let ((b, bd), (c, cd), (d, dd)) = (circle(&made, "b"), circle(&made, "c"), circle(&made, "d"));
    assert!((b.y - y - bd * 0.5).abs() < 1e-9 && (c.y - y - cd * 0.5).abs() < 1e-9, "they stay above");
    assert!((b.distance(c) - (bd + cd) * 0.5).abs() < 1e-9, "and outside each other");
    assert!(b.distance(d) < 1e-9 && (cd - dd).abs() < 1e-9);
    // A chain's arc goes on smoothly from its line however the line is turned.
    let chain = "a chain from 0, 0 to 30, 0 to 40, 9 bulge 0.5\n";
    let made = held(chain, &["tangent a.1 and a.2", "radius of a.2 8", "angle of a.1 30"]);
    let Shape::Chain { from, legs, .. } = &made.lines[0].draw else { panic!("a chain") };
    let (way, chord) = (Flat::from(legs[0].to) - Flat::from(*from), Flat::from(legs[1].to) - Flat::from(legs[0].to));
    let lean = way.angle_to(chord);
    assert!((way.to_angle().to_degrees() - 30.0).abs() < 1e-8);
    assert!((lean * 0.5).tan() - legs[1].bulge < 1e-9, "{lean} {}", legs[1].bulge);
    assert!((chord.length() / (2.0 * lean.sin()) - 8.0).abs() < 1e-8);
}

#[test]
fn a_plate_with_four_bores_follows_its_figures() {
    let list = "p frame at 30, 20 size 60 x 40 radius 4\na circle at 8, 8 diameter 6\nb circle at 51, 9 diameter 5\nc circle at 52, 31 diameter 6\nd circle at 9, 32 diameter 7\nm line from 30, -10 to 30, 50\n";
    let rules = [
        "distance beginning of p.3 from p.7 80",
        "distance beginning of p.5 from p.1 50",
        "radius of p.2 5",
        "fixed centre of p at 0, 0",
        "level centre of a and centre of b",
        "level centre of c and centre of d",
        "upright centre of a and centre of d",
        "upright centre of b and centre of c",
        "same size a and b",
        "same size b and c",
        "same size c and d",
        "diameter of a 6.6",
        "across centre of a and centre of b 64",
        "rise centre of a and centre of d 34",
        "distance centre of a from p.7 8",
        "distance centre of a from p.1 8",
        "upright m",
        "lies centre of p on m",
        "mirrored beginning of m and end of m in p.7",
    ];
    let made = held(list, &rules[..18]);
    for (name, x, y) in [("a", -32.0, -17.0), ("b", 32.0, -17.0), ("c", 32.0, 17.0), ("d", -32.0, 17.0)] {
        let (at, diameter) = circle(&made, name);
        assert!(at.distance(Flat::new(x, y)) < 1e-8 && (diameter - 6.6).abs() < 1e-9, "{name} {at} {diameter}");
    }
    // Only the line's height and length are loose.
    assert_eq!(loose(&made), 2);
    let wider = changed(&made, &figure("h13", 60.0));
    assert!(circle(&wider, "b").0.distance(Flat::new(28.0, -17.0)) < 1e-8);
    let bored = changed(&wider, &figure("h12", 8.4));
    assert!(["a", "b", "c", "d"].iter().all(|n| (circle(&bored, n).1 - 8.4).abs() < 1e-9));
    // Its ends cannot mirror each other in a line that stands as it does.
    let mirror = quarrel(&made, &hold(rules[18]));
    assert!(mirror.contains(&"h19".to_owned()), "{mirror:?}");
}

#[test]
fn the_hand_leads_as_far_as_the_rules_let_it() {
    let drag = |line: &str, handle: &str, to: [f64; 2]| Change::Drag { line: line.into(), handle: handle.into(), to };
    // A crank: its end goes round, and stays on the side it comes from.
    let crank = held("a line from 0, 0 to 20, 0", &["together beginning of a and zero", "length of a 20"]);
    let up = changed(&crank, &drag("a", "to", [3.0, 35.0]));
    let [from, to] = line(&up, "a");
    assert!(from.length() < 1e-9 && (to.length() - 20.0).abs() < 1e-9, "{from} {to}");
    assert!(to.distance(Flat::new(3.0, 35.0).normalize() * 20.0) < 0.1, "{to}");
    // What is free goes where it is taken.
    let free =
        changed(&crank, &Change::Draw { draw: vec![Shape::Circle { centre: [50.0, 0.0], diameter: 4.0 }], by: vec![] });
    assert_eq!(circle(&changed(&free, &drag("b", "centre", [60.0, 7.0])), "b").0, Flat::new(60.0, 7.0));
    // What is held altogether stays, and says so.
    let fixed = changed(&crank, &hold("angle of a 30"));
    assert_eq!(
        refused(&fixed, &drag("a", "to", [3.0, 35.0])).to_string(),
        "it is held where it is by figures and rules"
    );
    // A place that can only slide says which way.
    let slide = held(
        "a line from 0, 0 to 20, 0\nb circle at 5, 0 diameter 2",
        &["fixed beginning of a at 0, 0", "angle of a 0", "length of a 20", "lies centre of b on a", "diameter of b 2"],
    );
    let left = slide.loose(&Progress::unwatched()).unwrap().unwrap();
    assert_eq!((left.count, left.ways.len()), (1, 1));
    let along = left.ways[0].along.unwrap();
    assert!(along[1].abs() < 1e-9 && (along[0].abs() - 1.0).abs() < 1e-9, "{along:?}");
}

#[test]
fn what_is_caught_and_typed_is_held() {
    let base = drawing("a line from 0, 0 to 40, 0\nb circle at 20, 20 diameter 10\n");
    let click = |at: [f64; 2], caught: &str, typed: &[(&str, f64)]| Click {
        at,
        round: false,
        caught: caught.into(),
        typed: typed.iter().map(|(n, v)| ((*n).to_owned(), *v)).collect(),
    };
    let rules = |draw: Shape, by: Vec<Click>| {
        let made = changed(&base, &Change::Draw { draw: vec![draw], by });
        written(&made).lines().filter(|l| l.starts_with('h')).map(|l| l[4..].to_owned()).collect::<Vec<_>>()
    };
    let to = |from: [f64; 2], to: [f64; 2]| {
        serde_json::from_value::<Shape>(serde_json::json!({ "chain": { "from": from, "legs": [{ "to": to }] } }))
            .unwrap()
    };
    // Ends that meet are one place: nothing has to say so. What was typed is a figure.
    let typed = rules(
        to([40.0, 0.0], [40.0, 12.0]),
        vec![click([40.0, 0.0], "end of a", &[]), click([40.0, 12.0], "upright", &[("length", 12.0)])],
    );
    assert_eq!(typed, ["upright c", "length of c  12"]);
    let middle = rules(
        to([20.0, 0.0], [20.0, 15.0]),
        vec![click([20.0, 0.0], "middle of a", &[]), click([20.0, 15.0], "quarter of b", &[])],
    );
    assert_eq!(
        middle,
        ["together middle of a and beginning of c", "lies end of c on b", "upright centre of b and end of c"]
    );
    let bore = rules(
        Shape::Circle { centre: [20.0, 20.0], diameter: 4.0 },
        vec![click([20.0, 20.0], "centre of b", &[]), click([22.0, 20.0], "", &[("diameter", 4.0)])],
    );
    assert_eq!(bore, ["diameter of c  4"]);
    let frame = Shape::Frame { centre: [10.0, 5.0], size: [20.0, 10.0], radius: 0.0, turned: 0.0 };
    let framed = rules(
        frame,
        vec![
            click([0.0, 0.0], "zero", &[]),
            click([20.0, 10.0], "level with nothing", &[("width", 20.0), ("radius", 0.0)]),
        ],
    );
    assert_eq!(framed, ["together zero and beginning of c.1", "length of c.1  20"]);
}

#[test]
fn holds_go_over_to_what_is_left_of_their_lines() {
    let cross = held(
        "a line from 0, 0 to 40, 0\nb line from 30, -10 to 30, 10\nc circle at 10, 5 diameter 4\n",
        &["level a", "upright b", "length of a 40", "diameter of c 4", "lies beginning of a on c"],
    );
    let (cut, done) = cross.changed(&Change::CutBack { at: [38.0, 0.0], to: None }, &Progress::unwatched()).unwrap();
    assert_eq!(cut.holds.iter().map(|h| h.name.as_str()).collect::<Vec<_>>(), ["h1", "h2", "h4", "h5"]);
    assert!(done.ends_with("1 figure or rule let go"), "{done}");
    let gone = changed(&cut, &Change::Remove { lines: vec!["c".into()] });
    assert_eq!(gone.holds.len(), 2);
    // A row that is written anew keeps what still fits it, and moves the others, not itself.
    let list = "a line from 0, 0 to 40, 0\nb line from 40, 0 to 40, 20\n";
    let corner = held(list, &["level a", "upright b", "length of b 20"]);
    let written = changed(&corner, &Change::Write { line: Some("a".into()), text: "line from 0, 5 to 50, 5".into() });
    assert_eq!(line(&written, "a"), [Flat::new(0.0, 5.0), Flat::new(50.0, 5.0)]);
    assert_eq!(written.holds.len(), 3);
    // What is held of that line alone is as it is written.
    let higher = changed(&corner, &Change::Write { line: Some("b".into()), text: "line from 40, 0 to 40, 33".into() });
    assert_eq!((line(&higher, "b")[1], higher.holds[2].rule.figure()), (Flat::new(40.0, 33.0), Some(33.0)));
    // A row of what is held is written like any other, names change with their lines.
    let called =
        changed(&corner, &Change::Write { line: Some("b".into()), text: "wall line from 40, 0 to 40, 20".into() });
    assert_eq!(called.holds[2].rule, read("x length of wall 20").unwrap().holds[0].rule);
    let other = changed(&corner, &Change::Write { line: Some("h3".into()), text: "length of b 25".into() });
    assert!((line(&other, "b")[0].distance(line(&other, "b")[1]) - 25.0).abs() < 1e-9);
}

#[test]
fn what_cannot_be_held_says_why() {
    let list = "a line from 0, 0 to 40, 0\nb circle at 20, 20 diameter 10\nc curve from 0, 0 to 5, 5 to 9, 0\nd row of b by 20, 0 count 3\nf frame at 0, 0 size 10 x 10\n";
    let base = drawing(list);
    for (text, why) in [
        ("length of q 4", "there is no line q"),
        ("length of b 4", "b is not straight"),
        ("radius of a 4", "a is no circle and no arc"),
        ("length of a 0", "its figure is 0 mm; from 0.0001 to 2000000 can be held"),
        ("length of a 1e400", "its length is a number; '1e400' stands there"),
        ("corner of a and a 40", "its two lines are the same"),
        ("tangent a and c", "of two lines that touch one is round, the other straight or round"),
        ("lies beginning of a on c", "c is a free curve; a place is held on lines, arcs, circles and ellipses"),
        ("radius of d.1 4", "line d is a copy: it follows its lines; hold those"),
        ("length of f 4", "f is nothing a rule can hold: name one of its lines, like f.1"),
        ("level middle of b and zero", "there is no middle of b"),
        ("stiff a", "'stiff' is nothing that can be held"),
        ("level a and b", "'a' is no place"),
    ] {
        let told = refused(&base, &hold(text)).to_string();
        assert!(told.starts_with(why), "{text}: {told}");
    }
    let many = format!("{TRIANGLE}{}", "x level a\n".repeat(2));
    assert_eq!(
        refused(&base, &Change::List { text: many }).to_string(),
        "line x: another line, figure or rule has this name"
    );
    assert!(refused(&base, &Change::LetGo { holds: vec!["h9".into()] }).to_string().contains("is called h9"));
}

#[test]
fn lines_that_are_held_are_offered_what_fits_them() {
    let base = drawing("a line from 0, 0 to 30, 40\nb circle at 20, 20 diameter 10\nc line from 0, 0 to 10, 0\n");
    let offers = |things: &[&str]| {
        let things: Vec<String> = things.iter().map(|t| (*t).to_owned()).collect();
        base.offers(&things).unwrap().into_iter().map(|o| o.text).collect::<Vec<_>>()
    };
    assert_eq!(offers(&["a"])[..2], ["length of a  50", "level a"]);
    assert_eq!(offers(&["b"])[0], "diameter of b  10");
    let corner = offers(&["a", "c"]);
    assert!(corner.iter().any(|t| t.starts_with("corner of a and c  53.13")), "{corner:?}");
    assert_eq!(offers(&["end of a", "centre of b"])[1], "across end of a and centre of b  10");
    // Whatever is offered can be held as it stands: it moves nothing.
    for things in [
        &["a"][..],
        &["b"],
        &["end of a"],
        &["a", "c"],
        &["a", "b"],
        &["end of c", "a"],
        &["end of c", "b"],
        &["end of a", "end of c"],
    ] {
        for text in offers(things).iter().filter(|t| t.chars().any(|c| c.is_ascii_digit())) {
            match base.changed(&hold(text), &Progress::unwatched()) {
                Ok((made, _)) => assert!(made.lines == base.lines, "{text}"),
                Err(why) => assert!(
                    why.to_string().contains("already") || why.to_string().contains("by itself"),
                    "{text}: {why}"
                ),
            }
        }
    }
}

/// Any rule between lines and places of a drawing of ten lines and five circles.
fn any_rule() -> impl Strategy<Value = String> {
    let line = || (0..10_usize).prop_map(|n| format!("l{n}"));
    let round = || (0..5_usize).prop_map(|n| format!("c{n}"));
    let place = || {
        prop_oneof![
            line().prop_map(|l| format!("beginning of {l}")),
            line().prop_map(|l| format!("end of {l}")),
            line().prop_map(|l| format!("middle of {l}")),
            round().prop_map(|c| format!("centre of {c}"))
        ]
    };
    let mm = || 5.0..60.0_f64;
    prop_oneof![
        (prop::sample::select(vec!["level", "upright"]), line()).prop_map(|(k, l)| format!("{k} {l}")),
        (prop::sample::select(vec!["square", "alongside", "same size"]), line(), line())
            .prop_map(|(k, a, b)| format!("{k} {a} and {b}")),
        (line(), round()).prop_map(|(a, b)| format!("tangent {a} and {b}")),
        (round(), round()).prop_map(|(a, b)| format!("tangent {a} and {b}")),
        (place(), place()).prop_map(|(a, b)| format!("together {a} and {b}")),
        (place(), line()).prop_map(|(a, b)| format!("lies {a} on {b}")),
        (place(), round()).prop_map(|(a, b)| format!("lies {a} on {b}")),
        (line(), mm()).prop_map(|(l, x)| format!("length of {l} {x}")),
        (round(), mm()).prop_map(|(l, x)| format!("diameter of {l} {x}")),
        (place(), place(), mm()).prop_map(|(a, b, x)| format!("distance {a} and {b} {x}")),
        (place(), line(), mm()).prop_map(|(a, b, x)| format!("distance {a} from {b} {x}")),
        (line(), line(), 10.0..170.0_f64).prop_map(|(a, b, x)| format!("corner of {a} and {b} {x}")),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// Rules held one after the other are all kept to 1e-9, or the last one quarrels with a set that cannot be kept and of which
    /// none is idle: without any one of them the others can be.
    #[test]
    fn any_rules_are_kept_or_name_those_that_quarrel(
        ends in prop::collection::vec((0.0..100.0_f64, 0.0..100.0_f64), 20),
        rounds in prop::collection::vec((0.0..100.0_f64, 0.0..100.0_f64, 4.0..40.0_f64), 5),
        rules in prop::collection::vec(any_rule(), 1..25),
    ) {
        let lines = ends.chunks(2).enumerate().map(|(n, p)| format!("l{n} line from {}, {} to {}, {}\n", p[0].0, p[0].1, p[1].0, p[1].1));
        let circles = rounds.iter().enumerate().map(|(n, (x, y, d))| format!("c{n} circle at {x}, {y} diameter {d}\n"));
        let mut made = drawing(&lines.chain(circles).collect::<String>());
        for rule in rules {
            match made.changed(&hold(&rule), &Progress::unwatched()) {
                Ok((next, _)) => {
                    prop_assert!(next.most_off() <= 2.0 * KEPT, "{rule}: {}", next.most_off());
                    made = next;
                }
                Err(ChangeError::Quarrel(Quarrel { holds })) => {
                    prop_assert!(!holds.is_empty());
                    // Those that quarrel, alone and in the order they were held, do so again; without the last they do not.
                    let mut only = made.clone();
                    only.holds.retain(|h| holds.contains(&h.name));
                    prop_assert!(only.changed(&hold(&rule), &Progress::unwatched()).is_err(), "{rule}: {holds:?}");
                    for idle in only.holds.clone() {
                        let rest = changed(&only, &Change::LetGo { holds: vec![idle.name.clone()] });
                        let tried = rest.changed(&hold(&rule), &Progress::unwatched());
                        prop_assert!(!matches!(tried, Err(ChangeError::Quarrel(_))), "{rule}: {holds:?} without {}", idle.name);
                    }
                }
                Err(ChangeError::Refused(why)) => {
                    prop_assert!(["already", "by itself", "the same"].iter().any(|w| why.contains(w)), "{rule}: {why}");
                }
                Err(ChangeError::Drawing(why)) => prop_assert!(why.to_string().contains("mm"), "{rule}: {why}"),
                Err(other) => prop_assert!(false, "{rule}: {other}"),
            }
        }
    }

    /// Taking hold of anything and drawing it anywhere keeps all rules, moves by small steps, and never fails.
    #[test]
    fn a_hand_anywhere_keeps_the_rules(x in -80.0..80.0_f64, y in -80.0..80.0_f64, line in 0..4_usize) {
        let list = "a line from 0, 0 to 40, 0\nb line from 40, 0 to 50, 30\nc line from 50, 30 to 0, 20\nd line from 0, 20 to 0, 0\n";
        let made = held(list, &["length of a 40", "length of b 30", "length of c 55", "length of d 20", "fixed beginning of a at 0, 0", "fixed end of a at 40, 0"][..5]);
        let name = ["a", "b", "c", "d"][line].to_owned();
        let to = Change::Drag { line: name, handle: "to".into(), to: [x, y] };
        if let Ok((led, _)) = made.changed(&to, &Progress::unwatched()) {
            prop_assert!(led.most_off() <= 2.0 * KEPT, "{}", led.most_off());
        }
    }
}
