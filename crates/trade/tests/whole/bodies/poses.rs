//! Bodies and sheets of profiles however all of it lies: what is drawn and the parts it goes on from turned, moved, scaled, in single
//! precision, cut into other triangles.

use nimbet_kernel::Mesh;
use rayon::prelude::*;
use serde_json::{Value, json};

use super::making::*;
use crate::lies::tools::Tool;
use crate::lies::{Lie, difference, told_of};

/// What a step is done with.
enum Source {
    /// A profile: it is drawn where it lies.
    Drawn(Value),
    /// A part: it comes in as a file of that pose does.
    File(Mesh),
}

struct Scene {
    sources: Vec<Source>,
    step: Value,
    /// Shares by which figures may differ, as the parts are and cut into other triangles.
    off: [f64; 2],
    faces: bool,
}

impl Scene {
    fn of(sources: Vec<Source>, step: Value) -> Self {
        Self { sources, step, off: [1e-6, 1e-6], faces: true }
    }

    fn off(self, off: [f64; 2]) -> Self {
        Self { off, ..self }
    }

    fn any_faces(self) -> Self {
        Self { faces: false, ..self }
    }

    /// What differs from the plain pose in each other, in words.
    fn differences(&self, seed: u64) -> Vec<String> {
        let tool = Tool {
            step: self.step.clone(),
            parts: vec![],
            off: self.off[0],
            cut: self.off[1],
            stays: true,
            faces: self.faces,
            not: &[],
        };
        let told = |lie: &Lie| {
            let place = |source: &Source| match source {
                Source::Drawn(step) => done(lie.step(step), &Mesh::default(), &[]).unwrap().more.remove(0).mesh,
                Source::File(mesh) => lie.part(mesh),
            };
            let parts: Vec<Mesh> = self.sources.iter().map(place).collect();
            told_of(lie, &parts, &self.step)
        };
        let plain = told(&Lie::plain());
        let what =
            |lie: &Lie| Some(format!("{}, {}: {}", self.step, lie.name, difference(&plain, &told(lie), &tool, lie)?));
        Lie::all(seed).iter().filter_map(what).collect()
    }
}

fn drawing(at: [f64; 3], normal: [f64; 3], right: [f64; 3], lines: Value) -> Source {
    let plane = json!({ "at": at, "normal": normal });
    Source::Drawn(json!({ "kind": "shape.profile", "plane": plane, "right": right, "lines": lines }))
}

fn level(height: f64, draw: Value) -> Source {
    drawing([0.0, 0.0, height], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0], line(draw))
}

fn across(draw: Value) -> Source {
    drawing([0.0; 3], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], line(draw))
}

fn circle(diameter: f64) -> Value {
    json!({ "circle": { "centre": [0, 0], "diameter": diameter } })
}

fn frame(size: [f64; 2]) -> Value {
    json!({ "frame": { "centre": [0, 0], "size": size } })
}

fn made(source: &Source, step: Value) -> Mesh {
    let Source::Drawn(drawn) = source else { panic!("drawn first") };
    let profile = done(drawn.clone(), &Mesh::default(), &[]).unwrap().more.remove(0).mesh;
    done(step, &profile, &[]).unwrap().more.remove(0).mesh
}

/// A round post from a height to another.
fn post([low, high]: [f64; 2], diameter: f64) -> Mesh {
    made(&level(low, circle(diameter)), json!({ "kind": "shape.extrude", "above": high - low, "chord": 0.05 }))
}

fn from_profiles() -> Vec<Scene> {
    let plate = || {
        drawing(
            [1.0, 2.0, 3.0],
            [0.0, 0.0, 1.0],
            [1.0, 0.0, 0.0],
            json!([
                { "name": "a", "draw": frame([24.0, 16.0]) },
                { "name": "b", "draw": { "circle": { "centre": [5, 1], "diameter": 6 } } },
                { "name": "c", "draw": { "letters": { "at": [-11, -3], "text": "Rg", "height": 6 } } },
            ]),
        )
    };
    let cup = json!({ "chain": { "from": [4, 0], "closed": true,
        "legs": [{ "to": [9, 0] }, { "to": [12, 8], "bulge": 0.2 }, { "to": [12, 14] }, { "to": [4, 14] }] } });
    let wells = json!([
        { "region": { "at": [5.0, 1.0], "lines": ["b"] }, "height": 1.5 },
    ]);
    vec![
        // Bends of letters are so slight that it is a matter of rounding whether they are parts of a circle.
        Scene::of(vec![plate()], json!({ "kind": "shape.extrude", "above": 5.0, "below": 2.0, "chord": 0.02 }))
            .any_faces(),
        Scene::of(
            vec![level(2.0, frame([20.0, 9.0]))],
            json!({ "kind": "shape.extrude", "above": 5.0, "draft": 10.0 }),
        ),
        Scene::of(
            vec![level(2.0, cup)],
            json!({ "kind": "shape.revolve", "axis": { "at": [0, 0], "way": [0, 1] }, "angle": 250.0, "chord": 0.02 }),
        ),
        Scene::of(vec![plate()], json!({ "kind": "shape.relief", "heights": wells, "rest": 4.0, "chord": 0.02 })),
    ]
}

fn lofts() -> Vec<Scene> {
    let three = || vec![level(0.0, frame([20.0, 20.0])), level(12.0, circle(14.0)), level(20.0, frame([9.0, 15.0]))];
    let loft = |more: Value| with(json!({ "kind": "shape.loft", "profiles": [2, 3], "chord": 0.02 }), more);
    let posts = || {
        let [low, high] = [post([0.0, 10.0], 20.0), post([30.0, 40.0], 10.0)];
        done(json!({ "kind": "shape.union", "with": [2] }), &low, &[high]).unwrap().mesh
    };
    let ends = || vec![Source::File(posts()), level(10.0, circle(20.0)), level(30.0, circle(10.0))];
    vec![
        Scene::of(three(), loft(json!({}))),
        Scene::of(three(), loft(json!({ "smooth": true }))).off([1e-5, 1e-5]),
        // New surface is led by the faces of the part, which are known from its triangles.
        Scene::of(ends(), loft(json!({ "goes_on": "both", "becomes": "added" }))).off([1e-4, 1e-3]).any_faces(),
        Scene::of(ends(), loft(json!({ "goes_on": "first" }))).off([1e-4, 1e-3]).any_faces(),
        // The wall of a post does not go on sideways.
        Scene::of(
            vec![Source::File(post([0.0, 10.0], 20.0)), level(10.0, circle(20.0)), level(5.0, circle(40.0))],
            loft(json!({ "goes_on": "last" })),
        ),
    ]
}

fn along_paths() -> Vec<Scene> {
    let path = || {
        level(
            0.0,
            json!({ "chain": { "from": [0, 0], "legs": [
        { "to": [20, 0] }, { "to": [30, 10], "bulge": 0.414_213_562_373_095_1 }, { "to": [30, 22] }, { "to": [44, 30] }] } }),
        )
    };
    let sweep = |more: Value| {
        let step = json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": [2] } }, "chord": 0.02 });
        Scene::of(vec![across(frame([5.0, 3.0])), path()], with(step, more))
    };
    let tube = |more: Value| {
        let step =
            json!({ "kind": "shape.tube", "path": { "profiles": { "parts": [] } }, "diameter": 6.0, "chord": 0.02 });
        Scene::of(vec![path()], with(step, more))
    };
    let rails = json!({ "held": { "second_path": { "profiles": { "parts": [3] } } } });
    let mut grip = sweep(rails);
    grip.sources = vec![
        drawing(
            [0.0; 3],
            [1.0, 0.0, 0.0],
            [0.0, 1.0, 0.0],
            json!([{ "name": "a", "draw": { "frame": { "centre": [3, 0], "size": [6, 6] } } }]),
        ),
        level(0.0, json!({ "line": { "from": [0, 0], "to": [40, 0] } })),
        level(0.0, json!({ "line": { "from": [0, 12], "to": [40, 20] } })),
    ];
    vec![
        sweep(json!({})),
        sweep(json!({ "twist": 90.0, "scale": 0.5 })),
        sweep(json!({ "corner": "round" })).off([1e-5, 1e-5]),
        grip,
        tube(json!({ "wall": 1.0 })),
        tube(json!({ "ends": "round" })),
        // Its bend is tighter than the tube is thick: healed, and told.
        tube(json!({ "diameter": 26.0 })).off([1e-5, 1e-5]).any_faces(),
    ]
}

fn on_parts() -> Vec<Scene> {
    let ramp = |from: [f64; 3], to: [f64; 3]| {
        let line = |y: f64| {
            let at = [from[0], y, from[2]];
            let draw = json!([{ "name": "a", "draw": { "line": { "from": [0, 0], "to": [to[0] - from[0], to[2] - from[2]] } } }]);
            drawn_along(at, [0.0, -1.0, 0.0], [1.0, 0.0, 0.0], draw).unwrap()
        };
        done(json!({ "kind": "shape.patch", "profiles": [2] }), &line(0.0), &[line(24.0)]).unwrap().more.remove(0).mesh
    };
    let floor = ramp([-16.0, 0.0, 0.0], [0.0, 0.0, 0.0]);
    let wall = ramp([20.0, 0.0, 20.0], [20.0, 0.0, 34.0]);
    let both = done(json!({ "kind": "seal.join", "with": [2] }), &floor, &[wall]).unwrap().mesh;
    let side = |y: f64| {
        drawing(
            [0.0, y, 0.0],
            [0.0, -1.0, 0.0],
            [1.0, 0.0, 0.0],
            line(json!({ "line": { "from": [0, 0], "to": [20, 20] } })),
        )
    };
    let patch = json!({ "kind": "shape.patch", "profiles": [2, 3], "edges": [[0, 12, 0], [20, 12, 20]], "goes_on": true, "chord": 0.02 });
    let mark = || drawing([14.0, 0.0, 5.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], line(frame([5.0, 3.0])));
    let emboss = |more: Value| {
        with(
            json!({ "kind": "shape.emboss", "profile": 2, "face": [10.0, 0.0, 5.0], "depth": 1.0, "chord": 0.02 }),
            more,
        )
    };
    let drum = || Source::File(post([0.0, 10.0], 20.0));
    let trim = json!({ "kind": "shape.trim_sheet", "by": { "profile": { "profile": 2, "chord": 0.02 } }, "keep": { "picked": [[-2.0, 1.0, 0.0]] } });
    vec![
        Scene::of(vec![Source::File(both), side(0.0), side(24.0)], patch).off([1e-4, 1e-3]).any_faces(),
        Scene::of(vec![drum(), mark()], emboss(json!({}))).off([1e-4, 1e-3]).any_faces(),
        Scene::of(vec![drum(), mark()], emboss(json!({ "stands": "sunk" }))).off([1e-4, 1e-3]).any_faces(),
        Scene::of(
            vec![
                Source::File(floor.clone()),
                drawing([-8.0, 12.0, 0.0], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0], line(circle(9.0))),
            ],
            trim,
        ),
    ]
}

#[test]
fn bodies_of_profiles_are_the_same_however_all_of_it_lies() {
    let scenes: Vec<Scene> = [from_profiles(), lofts(), along_paths(), on_parts()].into_iter().flatten().collect();
    let found: Vec<String> = scenes.par_iter().flat_map(|scene| scene.differences(1)).collect();
    assert!(found.is_empty(), "{} differences:\n{}", found.len(), found.join("\n"));
}
