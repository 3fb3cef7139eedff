//! What is known beforehand: tables, threads, words, limits, what too much is, and the made-up parts.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

use std::f64::consts::PI;

use nimbet_kernel::crossings::{crossing_pairs, triangle_bvh};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_trade::budget::{Extent, refuse_costly};
use nimbet_trade::examine::{Finding, ShellRole};
use nimbet_trade::fasten::*;
use nimbet_trade::parameter::{Angle, Direction, Distance, Length, Position};
use nimbet_trade::tool::{Entry, Given, Needs, Tool};
use nimbet_trade::wall::PROCESSES;
use nimbet_trade::weigh::{MATERIALS, MaterialGroup};
use nimbet_trade::words::{count, figure, grams, millimetres};
use nimbet_trade::{Operation, Outcome, PartState, Plan, TradeError, add, demo, examine};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};

fn quiet() -> Progress {
    Progress::unwatched()
}

#[test]
fn keys_are_unique_and_densities_plausible() {
    let mut keys: Vec<_> = MATERIALS.iter().map(|m| m.key).collect();
    keys.sort_unstable();
    keys.dedup();
    assert_eq!(keys.len(), MATERIALS.len());
    for m in MATERIALS {
        let range = match m.group {
            MaterialGroup::CastingMetal => 2.0..20.0,
            MaterialGroup::Pattern | MaterialGroup::Liquid => 0.85..1.1,
            _ => 0.9..1.5,
        };
        assert!(range.contains(&m.density) && (0.0..3.0).contains(&m.shrinkage), "{}", m.name);
        assert!(m.colour.len() == 7, "{}", m.name);
    }
}

#[test]
fn rows_grow_with_the_screw_and_leave_room() {
    for pair in FITTINGS.windows(2) {
        assert!(pair[0].screw < pair[1].screw && pair[0].counterbore < pair[1].counterbore);
    }
    for f in FITTINGS {
        let [fine, medium, coarse] = f.clearance;
        assert!(f.screw < fine && fine < medium && medium < coarse, "{f:?}");
        assert!(coarse < f.countersink && f.countersink < f.spot_face * 1.5 && coarse < f.counterbore, "{f:?}");
    }
    for p in POCKETS {
        assert!(p.screw < p.diameter && p.diameter < p.mouth && p.depth > p.screw, "{p:?}");
    }
    assert_eq!(fitting("M4").map(|f| f.clearance), Some([4.3, 4.5, 4.8]));
    assert_eq!(fitting("M4.2"), None);
}

#[test]
fn every_process_has_allowances_that_grow_from_snug_to_loose() {
    assert_eq!(
        PROCESSES.iter().map(|p| p.key).collect::<Vec<_>>(),
        ALLOWANCES.iter().map(|a| a.process).collect::<Vec<_>>()
    );
    for a in ALLOWANCES {
        assert!(a.radial[0] < a.radial[1] && a.radial[1] < a.radial[2] && a.axial[0] < a.axial[1], "{a:?}");
    }
}

/// Figures as the standards print them.
const PRINTED: &[(&str, f64, f64, f64)] = &[
    ("M1x0.25", 0.838, 0.729, 0.75),
    ("M3x0.5", 2.675, 2.459, 2.5),
    ("M4x0.7", 3.545, 3.242, 3.3),
    ("M5x0.8", 4.480, 4.134, 4.2),
    ("M6x1", 5.350, 4.917, 5.0),
    ("M8x1.25", 7.188, 6.647, 6.8),
    ("M8x1", 7.350, 6.917, 7.0),
    ("M10x1.5", 9.026, 8.376, 8.5),
    ("M12x1.75", 10.863, 10.106, 10.2),
    ("M16x2", 14.701, 13.835, 14.0),
    ("M20x2.5", 18.376, 17.294, 17.5),
    ("M24x3", 22.051, 20.752, 21.0),
    ("M30x3.5", 27.727, 26.211, 26.5),
    ("M36x4", 33.402, 31.670, 32.0),
    ("M42x4.5", 39.077, 37.129, 37.5),
    ("M48x5", 44.752, 42.587, 43.0),
    ("M56x5.5", 52.428, 50.046, 50.5),
    ("M64x6", 60.103, 57.505, 58.0),
    ("G 1/16", 7.142, 6.561, 6.561),
    ("G 1/2", 19.793, 18.631, 18.631),
    ("G 1", 31.770, 30.291, 30.291),
    ("G 4", 111.551, 110.072, 110.072),
    ("Tr 8x1.5", 7.25, 6.5, 6.5),
    ("Tr 20x4", 18.0, 16.0, 16.0),
    ("Tr 60x9", 55.5, 51.0, 51.0),
];

#[test]
fn sizes_are_what_the_standards_print() {
    for &(name, pitch_diameter, minor, drill) in PRINTED {
        let s = size(name).unwrap_or_else(|| panic!("{name}"));
        assert_eq!(s.name, name);
        for (ours, printed) in [(s.pitch_diameter, pitch_diameter), (s.minor, minor), (s.tap_drill, drill)] {
            assert!((ours - printed).abs() < 1.1e-3, "{name}: {ours} and not {printed}");
        }
    }
    // Unified, in inches.
    for (name, pitch_diameter, minor) in [
        ("#6-32 UNC", 0.1177, 0.1042),
        ("1/4-20 UNC", 0.2175, 0.1959),
        ("1/2-13 UNC", 0.4500, 0.4167),
        ("1-8 UNC", 0.9188, 0.8647),
    ] {
        let s = size(name).unwrap_or_else(|| panic!("{name}"));
        assert!((s.pitch_diameter / 25.4 - pitch_diameter).abs() < 1e-4, "{name}");
        assert!((s.minor / 25.4 - minor).abs() < 1e-4, "{name}: {}", s.minor / 25.4);
    }
}

#[test]
fn every_row_follows_its_formula_and_has_a_name_of_its_own() {
    let all = sizes();
    let mut names: Vec<&str> = all.iter().map(|s| s.name.as_str()).collect();
    names.sort_unstable();
    names.dedup();
    assert_eq!(names.len(), all.len());
    for s in &all {
        let (h, p) = (3f64.sqrt() / 2.0 * s.pitch, s.pitch);
        let (pitch_diameter, minor, drill) = match s.family {
            Family::Metric | Family::Unified => (s.major - 0.649_519 * p, s.major - 1.082_532 * p, s.major - p),
            Family::Pipe => (s.major - 0.640_327 * p, s.major - 1.280_654 * p, s.major - 1.280_654 * p),
            Family::Trapezoidal => (s.major - 0.5 * p, s.major - p, s.major - p),
        };
        assert!(
            (s.pitch_diameter - pitch_diameter).abs() < 1e-5 * s.major && (s.minor - minor).abs() < 1e-5 * s.major,
            "{s:?}"
        );
        // Drills come in steps: at most half of one off, and never so wide that less than six tenths of the flank is left.
        assert!((s.tap_drill - drill).abs() <= 0.06, "{s:?}");
        assert!(s.family == Family::Pipe || s.tap_drill <= s.major - 0.9 * h, "{s:?}");
    }
    assert_eq!(all.iter().filter(|s| s.family == Family::Metric && s.class == PitchClass::Coarse).count(), 39);
    assert_eq!(all.iter().filter(|s| s.family == Family::Pipe).count(), 20);
}

#[test]
fn designations_are_read_as_people_write_them() {
    for (written, name) in
        [("m4", "M4x0.7"), ("M8×1", "M8x1"), ("1/4-20unc", "1/4-20 UNC"), ("g1/2", "G 1/2"), ("Tr20x4", "Tr 20x4")]
    {
        assert_eq!(size(written).map(|s| s.name).as_deref(), Some(name));
    }
    assert_eq!(size("M4.1"), None);
    // A fine-only diameter has no coarse pitch to be meant.
    assert_eq!(size("M15"), None);
}

#[test]
fn a_measured_bore_suggests_sizes_with_their_pitches() {
    let names = |d: f64| sizes_for_bore(d, 0.05).into_iter().map(|s| s.name).collect::<Vec<_>>();
    assert!(names(3.3).contains(&"M4x0.7".into()) && names(3.5).contains(&"M4x0.5".into()), "{:?}", names(3.3));
    assert!(names(200.0).is_empty());
}

fn thread(name: &str) -> Thread {
    Thread { size: ThreadSize::Standard(name.into()), left: false, starts: 1, allowance: Allowance::default() }
}

fn crosses(mesh: &Mesh) -> bool {
    !crossing_pairs(mesh, &triangle_bvh(mesh), &quiet()).unwrap().is_empty()
}

#[test]
fn every_size_of_every_family_is_a_clean_body_inside_and_out() {
    for s in sizes() {
        let form = thread(&s.name).form().unwrap();
        for gender in [Gender::Internal, Gender::External] {
            let screw = form.screw(gender, 24, None);
            assert!(screw.profile.windows(2).all(|w| w[0].0 < w[1].0), "{}: {:?}", s.name, screw.profile);
            let rod = screw.rod(0.0, s.pitch * 2.3).unwrap();
            assert!(measure(&rod).volume > 0.0 && !crosses(&rod), "{}", s.name);
        }
    }
}

#[test]
fn flanks_lie_on_the_pitch_diameter_at_the_angle_of_the_family() {
    for (name, flank) in [("M10x1.5", 30.0), ("1/2-13 UNC", 30.0), ("G 1/2", 27.5), ("Tr 20x4", 15.0)] {
        let s = size(name).unwrap();
        for gender in [Gender::Internal, Gender::External] {
            let screw = thread(name).form().unwrap().screw(gender, 4000, None);
            // The flank that rises through the pitch radius, a quarter of the pitch before the middle.
            let r = s.pitch_diameter * 0.5;
            let (a, b) = screw.profile.windows(2).map(|w| (w[0], w[1])).find(|(a, b)| a.1 <= r && b.1 > r).unwrap();
            assert!((((b.0 - a.0) / (b.1 - a.1)).atan().to_degrees() - flank).abs() < 0.01, "{name} {gender:?}");
            let at = a.0 + (r - a.1) / (b.1 - a.1) * (b.0 - a.0);
            assert!((at - s.pitch * 0.25).abs() < 1e-4 * s.pitch, "{name}: {at}");
        }
    }
}

#[test]
fn an_allowance_that_leaves_no_thread_is_refused() {
    for allowance in [Allowance { radial: 0.6, axial: 0.0 }, Allowance { radial: 0.0, axial: 0.6 }] {
        let thread = Thread { allowance, ..thread("M4x0.7") };
        assert!(thread.form().is_err_and(|e| e.to_string().contains("leaves nothing of M4x0.7")), "{allowance:?}");
    }
    assert!(thread("M4x0.6").form().is_err_and(|e| e.to_string().contains("no thread “M4x0.6”")));
    let fat = FreeThread { diameter: 4.0, pitch: 6.0, angle: 60.0 };
    assert!(
        Thread { size: ThreadSize::Free(fat), ..thread("") }.form().is_err_and(|e| e.to_string().contains("no core"))
    );
}

#[test]
fn figures_read_well() {
    assert_eq!(millimetres(214.04), "214 mm");
    assert_eq!(millimetres(3.2749), "3.27 mm");
    assert_eq!(millimetres(0.04), "0.04 mm");
    assert_eq!(millimetres(-1e-10), "0 mm");
    assert_eq!(figure(-123_456.7), "-123\u{2009}457");
    assert_eq!(grams(14_060.1), "14.06 kg");
    assert_eq!(millimetres(0.000_123), "0.00012 mm");
    assert_eq!(millimetres(1.234e-7), "0.00000012 mm");
    assert_eq!(millimetres(1e-13), "0 mm");
    assert_eq!(count(1, "rim", "rims"), "1 rim");
}

/// Parameters of `try.limits`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
struct Tried {
    #[schemars(with = "Length")]
    wall: f64,
    #[schemars(with = "Option<Length>")]
    chord: Option<f64>,
    #[schemars(with = "Direction")]
    along: [f64; 3],
    #[schemars(range(min = 1, max = 200))]
    passes: u32,
    form: Form,
}

impl Tool for Tried {
    const KIND: &'static str = "try.limits";
    const WHAT: &'static str = "Tries limits.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "limits",
        name: "Limits",
        hint: "Nothing is done",
        group: "Others",
        words: &[],
        needs: Needs::Anything,
        mark: "",
        start: |_| json!({}),
    }];

    fn title(&self) -> String {
        "Try".into()
    }

    fn apply(&self, _: &Given<'_>) -> Result<Outcome, TradeError> {
        unreachable!("it is only described")
    }

    /// As much as if squares of the chord covered something.
    fn makes(&self, _: &[Extent]) -> f64 {
        8000.0 / self.chord.unwrap_or(1.0)
    }
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
enum Form {
    All,
    Cone {
        #[schemars(with = "Angle")]
        angle: f64,
    },
    At(#[schemars(with = "Position")] [f64; 3]),
    By(#[schemars(with = "Distance")] f64),
    Deep(Vec<Deep>),
}

#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
enum Deep {
    To(#[schemars(with = "Length")] f64),
    Each { depth: f64 },
}

/// What is said of a step with one of its fields replaced, by its limits.
fn said_of(name: &str, value: Value) -> String {
    let mut step = json!({ "kind": "try.limits", "wall": 2.0, "along": [0.0, 0.0, -1.0], "passes": 10, "form": "all" });
    step[name] = value;
    let step: Operation = serde_json::from_value(step).unwrap();
    step.refuse_outside_limits().err().map_or(String::new(), |e| e.to_string())
}

#[test]
fn figures_outside_their_limits_are_refused_by_name() {
    add::<Tried>();
    let length = "it must be above 0 mm";
    for (name, value, wanted) in [
        ("wall", json!(1e-12), String::new()),
        ("wall", json!(0.0), format!("wall is 0.0 mm; {length}")),
        ("wall", json!(-1.5), format!("wall is -1.5 mm; {length}")),
        ("wall", json!(1e308), "wall is 1e+308; figures here are at most 1e16".into()),
        ("chord", json!(null), String::new()),
        ("chord", json!(0.0), format!("chord is 0.0 mm; {length}")),
        ("along", json!([0.0, 0.0, 0.0]), "along must not be zero: it is a direction".into()),
        ("along", json!([0.0, 1e308, 0.0]), "along[1] is 1e+308; figures here are at most 1e16".into()),
        ("passes", json!(0), "passes is 0; it must be from 1 to 200".into()),
        (
            "form",
            json!({ "cone": { "angle": 180.5 } }),
            "form.cone.angle is 180.5°; it must be above 0 and at most 180°".into(),
        ),
        ("form", json!({ "by": -3.0 }), String::new()),
        ("form", json!({ "deep": [1.0, 0.0] }), format!("form.deep[1] is 0.0 mm; {length}")),
        (
            "form",
            json!({ "deep": [{ "depth": -1e300 }] }),
            "form.deep[0].depth is -1e+300; figures here are at most 1e16".into(),
        ),
        ("form", json!({ "deep": vec![1.0; 10_001] }), "form.deep has 10001 entries; 10000 are the most".into()),
    ] {
        assert_eq!(said_of(name, value.clone()), wanted, "{name} = {value}");
    }
    let none = Tried { wall: f64::NAN, chord: None, along: [0.0, 0.0, 1.0], passes: 1, form: Form::All };
    assert_eq!(Operation::of(none).refuse_outside_limits().unwrap_err().to_string(), "wall is no number");
}

#[test]
fn what_is_too_much_is_told_with_what_would_fit() {
    add::<Tried>();
    let told = |chord: f64, memory: Option<f64>| {
        let step = Tried { wall: 1.0, chord: Some(chord), along: [0.0, 0.0, 1.0], passes: 1, form: Form::All };
        refuse_costly(&Operation::of(step), &[], memory).err().map_or(String::new(), |e| e.to_string())
    };
    assert_eq!(told(0.1, None), "");
    assert_eq!(
        told(1e-4, None),
        "this would make about 80 million triangles; the limit is 8 million; a chord of 0.005 mm makes 1.6 million"
    );
    assert!(told(1e-12, None).contains("more than a million million"), "{}", told(1e-12, None));
    assert!(told(0.0, None).contains("more than a million million"), "{}", told(0.0, None));
    let narrow = told(0.01, Some(1e6));
    assert!(narrow.contains("of memory; a task may have") && narrow.contains("; a chord of "), "{narrow}");
}

#[test]
fn the_parts_have_the_faults_they_are_shown_for() {
    use demo::*;
    let look = |m: Mesh| examine(&m, &quiet()).unwrap();
    let cowl = look(vent_cowl());
    assert_eq!((cowl.figures.state, cowl.rims.len(), cowl.gaps.len()), (PartState::Open, 2, 0));
    assert_eq!(cowl.rims.iter().filter(|r| r.flat).count(), 1);

    let ring = look(porthole_ring());
    assert_eq!(ring.gaps.len(), 4, "{:#?}", ring.gaps);
    for gap in &ring.gaps {
        assert!(gap.width_least >= 0.015 && gap.width_most <= 0.085, "{gap:?}");
    }
    let junctions = ring.findings.iter().filter(|f| f.key.starts_with("t-junction")).count();
    assert_eq!(junctions, 1);
    assert_eq!(ring.findings.len(), 5, "{:#?}", ring.findings);

    let grip = look(tiller_grip());
    assert!(grip.rims.len() >= 4 && grip.figures.crossing_pairs == 0, "{}", grip.figures.reason);
    assert!(grip.findings.iter().any(|f| f.key == "specks"));
    let plan = Operation::of(Plan::default());
    let sealed = plan.apply(&tiller_grip(), &[], &quiet()).unwrap().mesh;
    assert_eq!(look(sealed).figures.state, PartState::Sealed);

    let half = look(half_fairlead());
    assert_eq!((half.rims.len(), half.rims[0].flat, half.figures.clashing_edges), (1, true, 0));
    assert_eq!(half.figures.crossing_pairs, 0);
    assert!(half_fairlead().points().iter().all(|p| p.x >= -1e-9));

    let bailer = look(bailer());
    assert_eq!((bailer.rims.len(), bailer.rims[0].flat, bailer.figures.clashing_edges), (1, false, 0));

    let plan = |mesh: Mesh| plan.apply(&mesh, &[], &quiet()).unwrap().mesh;
    assert_eq!(look(coaming()).figures.state, PartState::Tangled);
    let one = look(plan(coaming()));
    assert_eq!((one.figures.state, one.figures.shells), (PartState::Sealed, 1), "{}", one.figures.reason);
    // Boards of 160 and 120 by 12, halved at the corners, posts and a cleat, less what they share.
    let boards = 2.0 * 160.0 * 12.0 * 30.0 + 2.0 * 96.0 * 12.0 * 27.0;
    // A post stands 4 mm into each of two boards, 6 mm out below, and to z = 24.
    let posts = 4.0 * (10.0 * 10.0 * 30.0 - (10.0 * 10.0 - 6.0 * 6.0) * 24.0);
    assert!((one.figures.volume.unwrap() - boards - posts - 20.0 * 5.0 * 10.0).abs() < 1e-2);

    let bend = look(stanchion_bend());
    assert_eq!(bend.figures.state, PartState::Tangled);
    let tube = bend.tangles[0].tube.unwrap();
    assert!((tube / 24.0 - 1.0).abs() < 0.01, "{tube}");
    let told =
        |f: &Finding| f.cause.contains("a bend of more than 12 mm") || f.cause.contains("a bend of more than 11.9");
    assert!(bend.findings.iter().any(told), "{:#?}", bend.findings);
    let straightened = look(plan(stanchion_bend()));
    assert_eq!(straightened.figures.state, PartState::Sealed, "{}", straightened.figures.reason);

    for solid in [tiller_core(), strainer_cup(), hinge_leaf(), deck_plate(), filler_neck(), filler_cap()] {
        let seen = look(solid);
        assert_eq!((seen.figures.state, seen.figures.shells), (PartState::Sealed, 1), "{}", seen.figures.reason);
    }

    // The coat meets the leaf on its inner side and covers all but the bore of the pin and the ends.
    let (leaf, coat) = (hinge_leaf(), look(hinge_leaf_coat()).figures);
    let area = measure(&leaf).area;
    let ends = 2.0 * (48.0 * 4.0 + PI * (36.0 - 9.0));
    let even = (area - 6.0 * PI * 40.0 - ends) * 0.3;
    assert_eq!((coat.state, coat.shells), (PartState::Sealed, 1), "{}", coat.reason);
    assert!((coat.volume.unwrap() / even - 1.0).abs() < 0.06, "{:?} is not {even}", coat.volume);

    let buoy = look(mooring_buoy());
    assert_eq!((buoy.figures.state, buoy.shells.len()), (PartState::Flipped, 2));
    assert!(buoy.shells[1].inside_out && buoy.shells[1].role == ShellRole::Stray && !buoy.shells[0].inside_out);
}

#[test]
fn a_reach_is_a_little_more_than_the_gap_in_two_digits() {
    for (gap, reach) in [(0.08, 0.088), (0.0801, 0.089), (0.2, 0.22)] {
        // Two squares side by side, with a gap between.
        let corners = [[0.0, 0.0], [30.0, 0.0], [30.0, 30.0], [0.0, 30.0]];
        let square = |x: f64| corners.map(|c| Point::new(c[0] + x, c[1], 0.0));
        let points = [square(0.0), square(30.0 + gap)].concat();
        let mesh = Mesh::with_one_face(points, vec![[0, 1, 2], [0, 2, 3], [4, 5, 6], [4, 6, 7]]).unwrap();
        let seen = examine(&mesh, &quiet()).unwrap();
        assert_eq!(seen.gaps.iter().map(|g| g.reach).collect::<Vec<_>>(), [reach], "{gap}");
    }
}
