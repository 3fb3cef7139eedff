//! Changes to drawings: known answers, and what holds of any drawing.

use crate::lines::{any_line, network};
use nimbet_kernel::Progress;
use nimbet_profile::change::{Change, Ends, corners};
use nimbet_profile::drawing::{Drawing, Line, Shape};
use nimbet_profile::look::{Look, look};
use nimbet_profile::text::{Row, read, read_row, row, written};
use nimbet_profile::{Flat, Network};
use proptest::prelude::*;
use serde_json::json;

fn drawing(list: &str) -> Drawing {
    read(list).unwrap()
}

fn cut(drawing: &Drawing) -> Network {
    Network::new(drawing.curves().unwrap(), &Progress::unwatched()).unwrap()
}

fn seen(drawing: &Drawing) -> Look {
    let network = cut(drawing);
    let regions = network.regions(&Progress::unwatched()).unwrap();
    look(&network, &regions, &Progress::unwatched()).unwrap()
}

fn changed(drawing: &Drawing, change: &Change) -> (Drawing, String) {
    drawing.changed(change, &Progress::unwatched()).unwrap()
}

fn refused(drawing: &Drawing, change: &Change) -> String {
    drawing.changed(change, &Progress::unwatched()).unwrap_err().to_string()
}

fn area(drawing: &Drawing) -> f64 {
    seen(drawing).regions.iter().filter(|r| r.depth.is_multiple_of(2)).map(|r| r.area).sum()
}

#[test]
fn a_list_of_lines_is_read_as_it_was_written() {
    let list = "\
        a  line  from 0, 0  to 40, 0.1\n\
        b  chain  from 0, 0  to 10, 0  to 10, 5 bulge -0.25  closed\n\
        c  arc  from 0, 0  via 5, 5  to 10, 0\n\
        d  circle  at 20, 10  diameter 6.6\n\
        e  ellipse  at 0, 0  size 20 x 10  turned 30  stretch 0 to 90\n\
        f  frame  at 0, 0  size 40 x 20  radius 3  turned 0\n\
        g  slot  from 0, 0  to 20, 0  width 6\n\
        h  polygon  at 0, 0  diameter 20  sides 6  turned 15\n\
        i  curve  from 0, 0  to 5, 5  to 10, 0  begin 90  end -0.5\n\
        j  bezier  from 0, 0  poles 1, 1 and 2, 1 to 3, 0\n\
        k  spiral  at 0, 0  radius 5  pitch 2  turns 3  turned 0\n\
        l  spiral  at 0, 0  radius 5  factor 1.2  turns -2  turned 0\n\
        m  row  of a, b  by 10, 0  count 4\n\
        n  ring  of d  about 0, 0  count 6  angle 30\n\
        to  mirrored  of a, f  from 0, 0  to 0, 10\n";
    let read_back = read(list).unwrap();
    assert_eq!(written(&read_back), list);
    assert_eq!(
        read_back.lines[13].draw,
        Shape::Ring { of: vec!["d".into()], centre: [0.0, 0.0], count: 6, angle: Some(30.0) }
    );
    // As people write: relative, with remarks, sizes without blanks, a radius for a diameter.
    let loose = read("a frame at 1 2 size 40x20 # the plate\n\n# nothing\nb circle at 0,0 radius 3.3\n").unwrap();
    assert_eq!(loose.lines[0].draw, Shape::Frame { centre: [1.0, 2.0], size: [40.0, 20.0], radius: 0.0, turned: 0.0 });
    assert_eq!(loose.lines[1].draw, Shape::Circle { centre: [0.0, 0.0], diameter: 6.6 });
    let row = read_row("a chain from 0, 0 along 10 at 90 by 5, 0 along 3 to 13, 0 tangent").unwrap();
    let Row::Line(Line { draw: Shape::Chain { legs, .. }, .. }) = row else { panic!("a chain") };
    assert_eq!(legs.iter().map(|l| l.to).collect::<Vec<_>>(), [[0.0, 10.0], [5.0, 10.0], [8.0, 10.0], [13.0, 0.0]]);
    // Its chord leans by half of what an arc turns: from level, down by atan2(10, 5).
    assert!((legs[3].bulge - (-(2.0_f64).atan() * 0.5).tan()).abs() < 1e-15);
}

#[test]
fn what_is_not_understood_is_told_with_its_row() {
    for (list, why) in [
        ("a line from 0, 0 to 1", "row 1: the second figure of where it goes is missing"),
        ("a line from 0, 0 to 1, 1\nb circle at 0, 0", "row 2: 'diameter' and its figure belong here; the row ends"),
        ("a circle at 0, 0 diameter big", "row 1: its diameter is a number; 'big' stands there"),
        ("a circle at 0, 0 diameter 3 4", "row 1: '4' is one word too many"),
        ("a-b line from 0, 0 to 1, 1", "row 1: 'a-b' is no name; a name is letters and digits"),
        ("a polygon at 0, 0 diameter 3 sides 4.5", "row 1: how many sides it has is a whole number, not 4.5"),
        ("a circle at 0, 0 diameter 1e999", "row 1: its diameter is a number; '1e999' stands there"),
    ] {
        assert_eq!(read(list).unwrap_err().to_string(), why);
    }
    assert!(read("a squiggle").unwrap_err().to_string().contains("'squiggle' is nothing that can be drawn"));
    assert!(read(&"é".repeat(1 << 20)).is_err());
}

#[test]
fn rows_are_written_anew_and_copies_follow_a_new_name() {
    let plate = drawing("a circle at 0, 0 diameter 4\nb row of a by 10, 0 count 3");
    let write = |line: &str, text: &str| Change::Write { line: Some(line.into()), text: text.into() };
    // With a new name, and without one.
    let (made, _) = changed(&plate, &write("a", "hole circle at 0, 0 diameter 5"));
    assert_eq!(written(&made), "hole  circle  at 0, 0  diameter 5\nb  row  of hole  by 10, 0  count 3\n");
    let (made, _) = changed(&plate, &write("a", "circle at 1, 0 diameter 5"));
    assert_eq!(made.lines[0].name, "a");
    let (made, _) = changed(&plate, &Change::Write { line: None, text: "line from 0, 5 by 9, 0".into() });
    assert_eq!(made.lines[2].name, "c");
    assert_eq!(refused(&plate, &write("a", "circle at 0, 0")), "'diameter' and its figure belong here; the row ends");
    assert_eq!(refused(&plate, &write("z", "circle at 0, 0 diameter 1")), "there is no line z");
    assert!(refused(&plate, &write("a", "circle at 0, 0 diameter 0")).contains("its diameter is 0 mm"));
    // What is taken away takes copies of nothing else with it.
    let (made, _) = changed(&plate, &Change::Remove { lines: vec!["a".into()] });
    assert_eq!(made.lines, vec![]);
}

#[test]
fn corners_are_rounded_and_cut_off() {
    let r = 3.0;
    let soften = |flat, sharper| Change::Soften { radius: r, flat, at: None, sharper };
    let plate = drawing("a frame at 0, 0 size 40 x 20");
    let (made, done) = changed(&plate, &soften(false, 5.0));
    assert_eq!(done, "4 corners rounded");
    let corners_gone = (4.0 - std::f64::consts::PI) * r * r;
    assert!((area(&made) - (800.0 - corners_gone)).abs() < 1e-9);
    assert_eq!(seen(&made).regions.len(), 1);
    let (made, done) = changed(&plate, &soften(true, 5.0));
    assert_eq!((done.as_str(), area(&made)), ("4 corners cut off", 800.0 - 2.0 * r * r));
    // A step outline: one inner corner gains what each outer one loses. Rounded again there is nothing left to do.
    let step = drawing("a chain from 0, 0 to 40, 0 to 40, 20 to 20, 20 to 20, 30 to 0, 30 closed");
    let (made, done) = changed(&step, &soften(false, 5.0));
    assert_eq!(done, "6 corners rounded");
    assert!((area(&made) - (1000.0 - corners_gone)).abs() < 1e-9);
    assert!(corners(&cut(&made)).iter().all(|c| c.turn < 1e-6));
    assert_eq!(refused(&made, &soften(false, 5.0)), "no corner is there to be softened");
    // One corner only, of lines of their own; and where an arc ends on a line.
    let apart =
        drawing("a line from 0, 0 to 10, 0\nb line from 10, 0 to 10, 10\nc arc from 10, 10 via 0, 13 to -10, 10");
    let (made, done) =
        changed(&apart, &Change::Soften { radius: 2.0, flat: false, at: Some(vec![[10.0, 10.0]]), sharper: 5.0 });
    assert_eq!((done.as_str(), made.lines.len()), ("1 corner rounded", 4));
    let turns: Vec<f64> = corners(&cut(&made)).iter().map(|c| c.turn).collect();
    assert_eq!(turns.iter().filter(|t| **t > 1e-6).count(), 1, "{turns:?}");
    // What has no room says where.
    let rounded = |radius| Change::Soften { radius, flat: false, at: None, sharper: 5.0 };
    assert_eq!(changed(&plate, &rounded(12.0)).1, "2 corners rounded; 2 corners without room for it");
    let why = refused(&plate, &rounded(21.0));
    assert!(why.starts_with("the corner at ") && why.ends_with("has no room for 21 mm"), "{why}");
}

#[test]
fn lines_are_cut_back_to_what_crosses_them_and_carried_on_to_it() {
    let list = "a line from -10, 0 to 10, 0\nb circle at 0, 0 diameter 10\nc line from 0, 1 to 0, 3";
    let crossed = drawing(list);
    // The middle of a goes: two ends on the circle are left.
    let (made, _) = changed(&crossed, &Change::CutBack { at: [1.0, 0.1], to: None });
    assert!((seen(&crossed).length - seen(&made).length - 10.0).abs() < 1e-12);
    assert_eq!(made.lines.len(), 4);
    // The upper half of the circle goes, through its beginning at no crossing at all.
    let (made, _) = changed(&crossed, &Change::CutBack { at: [0.0, 5.0], to: None });
    assert!(made.lines.iter().any(|l| matches!(l.draw, Shape::Arc { .. })), "{made:?}");
    assert_eq!(seen(&made).regions.len(), 1);
    // Nothing crosses c: it goes as a whole. The same with a circle that nothing meets.
    let (made, _) = changed(&crossed, &Change::CutBack { at: [0.0, 2.0], to: None });
    assert_eq!(made.lines.len(), 2);
    // c carried on upward meets the circle, downward a.
    let (made, done) = changed(&crossed, &Change::CarryOn { at: [0.0, 3.4] });
    assert_eq!(done, "line c carried on to line b");
    assert_eq!(made.lines[2].draw, Shape::Line { from: [0.0, 1.0], to: [0.0, 5.0] });
    let (made, _) = changed(&crossed, &Change::CarryOn { at: [0.0, 0.9] });
    assert_eq!(made.lines[2].draw, Shape::Line { from: [0.0, 0.0], to: [0.0, 3.0] });
    assert_eq!(refused(&crossed, &Change::CarryOn { at: [12.0, 0.0] }), "line a meets nothing farther on");
    // An arc goes on round.
    let bow = drawing("a arc from 5, 0 via 0, 5 to -5, 0\nb line from -3, -9 to -3, 0");
    let (made, _) = changed(&bow, &Change::CarryOn { at: [-5.0, 0.0] });
    let Shape::Arc { to, .. } = made.lines[0].draw else { panic!("an arc") };
    assert!((to[0] + 3.0).abs() < 1e-9 && (to[1] + 4.0).abs() < 1e-9, "{to:?}");
}

#[test]
fn gaps_are_joined_and_what_lies_double_goes() {
    let open =
        drawing("a chain from 0, 0 to 10, 0 to 10, 10\nb line from 10, 10.02 to 0, 10\nc line from 0, 10 to 0, 0");
    assert_eq!(seen(&open).regions.len(), 0);
    let (made, done) = changed(&open, &Change::Join { reach: 0.1 });
    assert_eq!((done.as_str(), seen(&made).regions.len(), seen(&made).ends.len()), ("1 gap joined", 1, 0));
    assert_eq!(made.lines[0].draw, drawing("a chain from 0, 0 to 10, 0 to 10, 10.01").lines[0].draw);
    assert!(refused(&open, &Change::Join { reach: 0.01 }).starts_with("no two free ends"));
    // Ends of copies cannot be moved: the other goes there, or a line comes between.
    let copied = drawing("a line from 0, 0 to 0, 10\nb row of a by 10, 0 count 2\nc line from 0.01, 0 to 9.99, 0");
    let (made, done) = changed(&copied, &Change::Join { reach: 0.1 });
    assert_eq!((done.as_str(), seen(&made).ends.len()), ("2 gaps joined", 2));
    let double = drawing("a frame at 0, 0 size 10 x 10\nb line from -8, 5 to 3, 5\nc line from 20, 0 to 20.001, 0");
    let (made, done) = changed(&double, &Change::Tidy {});
    assert_eq!(done, "1 that lay on others and 1 specks taken away");
    assert_eq!((seen(&made).doubles.len(), seen(&made).specks.len(), made.lines.len()), (0, 0, 2));
}

#[test]
fn ends_that_lie_together_are_drawn_together() {
    let plate =
        drawing("a line from 0, 0 to 10, 0\nb chain from 10, 0 to 10, 10 to 0, 10\nc circle at 10, 0 diameter 4");
    let drag = |line: &str, handle: &str, to| Change::Drag { line: line.into(), handle: handle.into(), to };
    let (made, _) = changed(&plate, &drag("a", "to", [12.0, 1.0]));
    let at = |l: &Line| made.lines.iter().find(|m| m.name == l.name).map(|m| row(&m.draw)).unwrap();
    assert_eq!(at(&plate.lines[0]), "line  from 0, 0  to 12, 1");
    assert_eq!(at(&plate.lines[1]), "chain  from 12, 1  to 10, 10  to 0, 10");
    assert_eq!(at(&plate.lines[2]), "circle  at 12, 1  diameter 4");
    let (made, _) = changed(&plate, &drag("c", "rim", [10.0, 3.0]));
    assert_eq!(made.lines[2].draw, Shape::Circle { centre: [10.0, 0.0], diameter: 6.0 });
    assert_eq!(refused(&plate, &drag("a", "via", [0.0, 0.0])), "line a has no via");
}

/// What a drawing is with all its lines written as what they are once cut up.
fn of(lines: &[serde_json::Value]) -> Drawing {
    let named = |(n, draw): (usize, &serde_json::Value)| json!({ "name": format!("l{n}"), "draw": draw });
    let lines: Vec<_> = lines.iter().enumerate().map(named).collect();
    serde_json::from_value(json!({ "lines": lines })).unwrap()
}

#[test]
fn a_stroke_cuts_back_all_it_goes_through() {
    let ladder = drawing(
        "a line from 0, 0 to 30, 0\nb line from 0, 10 to 30, 10\nd line from 5, -5 to 5, 15\ne line from 25, -5 to 25, 15\n",
    );
    // Down the middle: of both rails goes what lies between the posts, and nothing of the posts.
    let (made, _) = changed(&ladder, &Change::CutBack { at: [15.0, 12.0], to: Some([15.0, -3.0]) });
    let length = |d: &Drawing| cut(d).pieces.iter().map(|p| p.span.length()).sum::<f64>();
    assert!((length(&ladder) - length(&made) - 40.0).abs() < 1e-9);
    assert_eq!(refused(&made, &Change::CutBack { at: [15.0, 12.0], to: Some([15.0, -3.0]) }), "no line lies there");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    /// What bounds a region, kept by itself, encloses that region and nothing beside.
    #[test]
    fn the_border_of_any_region_can_be_kept_alone(lines in prop::collection::vec(any_line(), 1..12)) {
        let all = of(&lines);
        for region in seen(&all).regions.iter().filter(|r| r.area > 1e-3) {
            let (kept, _) = changed(&all, &Change::KeepRegion { at: region.at });
            let now = seen(&kept);
            let outer = &now.regions[0];
            prop_assert!((outer.area - region.area).abs() < 1e-6 * region.area.max(1.0), "{} {}", outer.area, region.area);
            prop_assert_eq!(now.ends.len(), 0);
            prop_assert!((now.length - region.round).abs() < 1e-6 * region.round, "{} {}", now.length, region.round);
        }
    }

    /// Cutting back takes away what lay there and nothing else: the rest is as long as it was, and no piece comes to lie anew.
    #[test]
    fn cutting_back_takes_one_stretch(lines in prop::collection::vec(any_line(), 1..12), x in 0.0..100.0_f64, y in 0.0..100.0_f64) {
        let all = of(&lines);
        let before = network(&lines);
        let (left, _) = changed(&all, &Change::CutBack { at: [x, y], to: None });
        let after = cut(&left);
        let length = |n: &Network| n.pieces.iter().map(|p| p.span.length()).sum::<f64>();
        prop_assert!(length(&after) < length(&before) - 1e-9);
        for piece in &after.pieces {
            let middle = piece.span.at(0.5);
            let off = before.pieces.iter().map(|p| p.span.nearest(middle).1).fold(f64::INFINITY, f64::min);
            prop_assert!(off < 1e-7, "{off}");
        }
        // Nothing that is farther from the place than what went is missing.
        let gone: Vec<Flat> = before.pieces.iter().map(|p| p.span.at(0.37)).filter(|m| {
            after.pieces.iter().all(|p| p.span.nearest(*m).1 > 1e-7)
        }).collect();
        prop_assert!(!gone.is_empty());
    }

    /// Copies made lines of their own lie where the copies lay.
    #[test]
    fn copies_set_free_stay_where_they_are(line in any_line(), angle in 0.0..360.0_f64, count in 2..5_u32) {
        let mut all = of(&[line]);
        let ring = Shape::Ring { of: vec!["l0".into()], centre: [-20.0, 5.0], count, angle: None };
        let way = Flat::from_angle(angle.to_radians());
        let mirrored = Shape::Mirrored { of: vec!["l0".into()], from: [0.0, 0.0], to: way.to_array() };
        all.lines.extend([("r", ring), ("m", mirrored)].map(|(name, draw)| Line::new(name, draw)));
        let (free, _) = changed(&all, &Change::Free { lines: vec!["r".into(), "m".into()] });
        let copy = |l: &Line| matches!(l.draw, Shape::Ring { .. } | Shape::Mirrored { .. });
        prop_assert!(!free.lines.iter().any(copy));
        let (old, new) = (seen(&all), seen(&free));
        prop_assert!((old.length - new.length).abs() < 1e-7 * old.length);
        let on_old = |p: Flat| cut(&all).pieces.iter().map(|q| q.span.nearest(p).1).fold(f64::INFINITY, f64::min);
        for curve in free.curves().unwrap() {
            prop_assert!(curve.spans.iter().all(|s| on_old(s.at(0.3)) < 1e-6), "{}", curve.name);
        }
    }

    /// Whatever is drawn is written and read again the same.
    #[test]
    fn any_list_reads_back(lines in prop::collection::vec(any_line(), 1..12)) {
        let all = of(&lines);
        prop_assert_eq!(read(&written(&all)).unwrap(), all);
    }
}

fn band(lines: &[&str], left: f64, right: f64, ends: Ends, sharp: bool) -> Change {
    Change::Band { lines: lines.iter().map(|l| (*l).to_owned()).collect(), left, right, ends, sharp }
}

/// The drawing without the lines a band was drawn beside.
fn only_band(drawing: &Drawing, change: &Change) -> Drawing {
    let (made, _) = changed(drawing, change);
    let before: Vec<String> = drawing.lines.iter().map(|l| l.name.clone()).collect();
    changed(&made, &Change::Remove { lines: before }).0
}

#[test]
fn a_line_becomes_a_band() {
    use std::f64::consts::PI;
    let bent = drawing("a chain from 0, 0 to 30, 0 to 30, 20");
    // Both sides, round ends: the area within 2 mm of the line. The outer corner is round, the inner one is not.
    let round = only_band(&bent, &band(&["a"], 2.0, 2.0, Ends::Round, false));
    let expected = 2.0 * 2.0 * 50.0 + PI * 4.0 + (PI * 0.25 - 1.0) * 4.0;
    assert!((area(&round) - expected).abs() < 1e-6, "{} {expected}", area(&round));
    // Square ends and sharp corners: two rectangles and the corner.
    let square = only_band(&bent, &band(&["a"], 2.0, 2.0, Ends::Square, true));
    assert!((area(&square) - 4.0 * 50.0).abs() < 1e-9, "{}", area(&square));
    // One side only, closed over the line itself.
    let one = only_band(&bent, &band(&["a"], 3.0, 0.0, Ends::Square, false));
    assert!((area(&one) - (3.0 * 27.0 + 3.0 * 20.0)).abs() < 1e-9, "{}", area(&one));
    // Open: a line beside, as long as fits.
    let beside = only_band(&bent, &band(&["a"], 3.0, 0.0, Ends::Open, false));
    assert!((seen(&beside).length - (27.0 + 17.0)).abs() < 1e-9, "{}", seen(&beside).length);
    assert_eq!(
        refused(&bent, &band(&["a"], 3.0, 2.0, Ends::Round, false)),
        "round ends need the same distance to both sides"
    );
    assert!(refused(&bent, &band(&["z"], 3.0, 0.0, Ends::Open, false)).starts_with("choose the lines"));
    assert!(refused(&bent, &band(&["a"], 0.0, 0.0, Ends::Open, false)).starts_with("a distance is 0"));
}

#[test]
fn outlines_move_out_and_in() {
    use std::f64::consts::PI;
    let plate = drawing("a frame at 0, 0 size 40 x 20");
    let out = only_band(&plate, &band(&["a"], 0.0, 3.0, Ends::Open, false));
    assert!((area(&out) - (800.0 + 3.0 * 120.0 + PI * 9.0)).abs() < 1e-9);
    let sharp = only_band(&plate, &band(&["a"], 0.0, 3.0, Ends::Open, true));
    assert!((area(&sharp) - 46.0 * 26.0).abs() < 1e-9);
    let within = only_band(&plate, &band(&["a"], 3.0, 0.0, Ends::Open, false));
    assert!((area(&within) - 34.0 * 14.0).abs() < 1e-9);
    assert!(refused(&plate, &band(&["a"], 10.1, 0.0, Ends::Open, false)).contains("too narrow"));
    // A neck narrower than twice the distance parts it in two.
    let bone = drawing(
        "a chain from 0, 0 to 10, 0 to 10, 4 to 20, 4 to 20, 0 to 30, 0 to 30, 10 to 20, 10 to 20, 6 to 10, 6 to 10, 10 to 0, 10 closed",
    );
    let parted = only_band(&bone, &band(&["a"], 1.5, 0.0, Ends::Open, false));
    // Each part is a square of 7, and what the arcs about the corners of the neck leave beside it.
    assert_eq!(seen(&parted).regions.len(), 2);
    assert!(area(&parted) > 2.0 * 49.0 && area(&parted) < 2.0 * (49.0 + 0.4), "{}", area(&parted));
    // Circles stay circles, and everything stays at its distance from an ellipse.
    let round = drawing("a circle at 5, 5 diameter 10");
    let out = only_band(&round, &band(&["a"], 0.0, 2.0, Ends::Open, false));
    assert_eq!(out.lines[0].draw, Shape::Circle { centre: [5.0, 5.0], diameter: 14.0 });
    let oval = drawing("a ellipse at 0, 0 size 40 x 16");
    let within = only_band(&oval, &band(&["a"], 3.0, 0.0, Ends::Open, false));
    let rim = oval.curves().unwrap();
    for span in within.curves().unwrap().iter().flat_map(|c| &c.spans) {
        for t in [0.0, 0.3, 0.7] {
            let off = rim[0].spans.iter().map(|s| s.nearest(span.at(t)).1).fold(f64::INFINITY, f64::min);
            assert!((off - 3.0).abs() < 1e-5, "{off}");
        }
    }
}

#[test]
fn ends_flow_into_each_other() {
    let ends = drawing("a line from 0, 0 to 10, 0\nb arc from 30, 10 via 35, 15 to 40, 10");
    let flow = |even| Change::Flow { between: [[10.0, 0.0], [30.0, 10.0]], pull: [1.0, 1.2], even };
    for even in [false, true] {
        let (made, _) = changed(&ends, &flow(even));
        let curves = made.curves().unwrap();
        let spans = &curves[2].spans;
        let (first, last) = (spans[0], spans[spans.len() - 1]);
        assert!((first.direction(0.0).dot(Flat::X) - 1.0).abs() < 1e-9);
        let arc = curves[1].spans[0];
        assert!((last.direction(1.0).dot(arc.direction(0.0)) - 1.0).abs() < 1e-9);
        let bend = |s: &nimbet_profile::Span, t: f64| {
            let (p, q) = s.slopes(t);
            p.perp_dot(q) / p.length().powi(3)
        };
        // Even in curvature it bends at its ends as the lines do; else it need not.
        let same = bend(&first, 0.0).abs() < 1e-3 && (bend(&last, 1.0) - bend(&arc, 0.0)).abs() < 1e-3;
        assert_eq!(same, even, "{} {} {}", bend(&first, 0.0), bend(&last, 1.0), bend(&arc, 0.0));
    }
    assert!(
        refused(&ends, &Change::Flow { between: [[10.0, 0.0], [10.0, 0.0]], pull: [1.0, 1.0], even: true })
            .contains("one place")
    );
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    /// A band beside any one line is nowhere nearer to it than the distance, and moved out and in again an outline that is convex is
    /// what it was.
    #[test]
    fn bands_keep_their_distance(line in any_line(), by in 0.3..6.0_f64, sharp in any::<bool>()) {
        let all = of(&[line]);
        let Ok((made, _)) = all.changed(&band(&["l0"], by, by, Ends::Open, sharp), &Progress::unwatched()) else {
            return Ok(());
        };
        let rim = network(&[serde_json::to_value(&all.lines[0].draw).unwrap()]);
        for curve in made.curves().unwrap().iter().filter(|c| !c.name.starts_with("l0")) {
            for span in &curve.spans {
                for t in [0.1, 0.5, 0.9] {
                    let off = rim.pieces.iter().map(|p| p.span.nearest(span.at(t)).1).fold(f64::INFINITY, f64::min);
                    prop_assert!(off > by - 1e-4, "{off} {by}");
                    prop_assert!(sharp || off < by + 1e-4, "{off} {by}");
                }
            }
        }
    }

    #[test]
    fn out_and_in_again_is_what_it_was(sides in 3..9_u32, diameter in 5.0..50.0_f64, turned in 0.0..90.0_f64, by in 0.1..9.0_f64, sharp in any::<bool>()) {
        let all = of(&[json!({ "polygon": { "centre": [3.0, -2.0], "diameter": diameter, "sides": sides, "turned": turned } })]);
        let out = only_band(&all, &band(&["l0"], 0.0, by, Ends::Open, sharp));
        let names: Vec<&str> = out.lines.iter().map(|l| l.name.as_str()).collect();
        let back = only_band(&out, &band(&names, by, 0.0, Ends::Open, sharp));
        prop_assert!((area(&back) - area(&all)).abs() < 1e-6 * area(&all), "{} {}", area(&back), area(&all));
        prop_assert_eq!(seen(&back).curves, sides as usize);
    }
}
