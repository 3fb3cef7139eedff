//! Every tool with the parts it is tried on. A pick or plane is written for the part as it was made.

use serde_json::{Value, json};

/// A step on some parts.
pub struct Tool {
    pub step: Value,
    /// The parts it is done to, one after the other; each with the further parts that go into it.
    pub parts: Vec<Vec<&'static str>>,
    /// Shares by which figures may differ.
    pub off: f64,
    /// The same where the part was cut into other triangles.
    pub cut: f64,
    /// Whether what it makes stays where the part is.
    pub stays: bool,
    /// Whether faces are compared.
    pub faces: bool,
    /// Poses it cannot be carried to, as it works along the axes.
    pub not: &'static [&'static str],
}

impl Tool {
    pub fn kind(&self) -> &str {
        self.step["kind"].as_str().unwrap()
    }

    /// New curved surface depends on the corners it is led through.
    fn cut(self, cut: f64) -> Self {
        Self { cut, ..self }
    }

    fn off(self, off: f64) -> Self {
        Self { off, cut: off.max(self.cut), ..self }
    }

    fn not(self, not: &'static [&'static str]) -> Self {
        Self { not, ..self }
    }

    fn moves(self) -> Self {
        Self { stays: false, ..self }
    }

    fn any_faces(self) -> Self {
        Self { faces: false, ..self }
    }
}

/// Poses that cut.
const CUTS: &[&str] = &["cut", "all at once"];
/// Poses that turn.
const TURNS: &[&str] = &["turned", "single", "all at once"];

fn on(parts: &[&[&'static str]], step: Value) -> Tool {
    let parts = parts.iter().map(|p| p.to_vec()).collect();
    Tool { step, parts, off: 1e-6, cut: 1e-6, stays: true, faces: true, not: &[] }
}

pub fn tools() -> Vec<Tool> {
    [sealing(), shaping(), walls(), weighing(), fastening()].into_iter().flatten().collect()
}

fn sealing() -> Vec<Tool> {
    let opened = [&["open block"][..], &["open bracket"], &["open cup"], &["bowl"], &["pipe"]];
    let rim = |at: [f64; 3], length: f64| json!({ "near": at, "length": length });
    vec![
        on(&[&["noisy block"], &["noisy gear"], &["noisy cup"]], json!({ "kind": "seal.merge_points", "within": 1e-3 }))
            .off(1e-4)
            .not(CUTS),
        on(&[&["torn block"], &["open cup"], &["block"]], json!({ "kind": "seal.close_gaps", "reach": 0.1 }))
            .off(1e-3)
            .any_faces(),
        on(&opened, json!({ "kind": "seal.cover_rim", "style": "flat" })),
        on(&opened, json!({ "kind": "seal.cover_rim" })).off(1e-3).any_faces(),
        // Rounds of solving end where they do: which of several covers alike they begin with is up to the last digits.
        on(&opened, json!({ "kind": "seal.cover_rim", "style": "domed" })).off(5e-2).any_faces(),
        on(
            &[&["open block"]],
            json!({ "kind": "seal.cover_runs", "at": [[-10.0, -8.0, 6.0], [10.0, 8.0, 6.0]], "style": "flat" }),
        ),
        on(&[&["bowl"]], json!({ "kind": "seal.cover_runs", "at": [[-10.0, 0.0, 0.0], [10.0, 0.0, 0.0]] })).off(1e-3),
        on(
            &[&["pipe"]],
            json!({ "kind": "seal.cover_runs", "at": [[10.0, 0.0, 0.0], [-10.0, 0.0, 0.0]], "style": "domed" }),
        )
        .not(CUTS)
        .off(1e-2)
        .any_faces(),
        on(
            &[&["two pipes"]],
            json!({ "kind": "seal.bridge", "from": rim([10.0, 0.0, 10.0], 62.8), "to": rim([10.0, 0.0, 14.0], 62.8) }),
        ),
        on(
            &[&["two pipes"]],
            json!({ "kind": "seal.bridge", "from": rim([10.0, 0.0, 10.0], 62.8), "to": rim([10.0, 0.0, 14.0], 62.8),
                "shape": "tangent" }),
        )
        .off(1e-3)
        .any_faces(),
        on(
            &[&["pipe"]],
            json!({ "kind": "seal.bridge", "from": rim([10.0, 0.0, 0.0], 62.8), "to": rim([10.0, 0.0, 30.0], 62.8) }),
        )
        .off(1e-3),
        on(
            &[&["pipe"], &["bowl"], &["square pipe"]],
            json!({ "kind": "seal.fill_outline", "outline": { "section": { "at": [0.0, 0.0, 5.0], "normal": [0.0, 0.0, 1.0] } } }),
        ),
        on(
            &[&["bracket"], &["gear"], &["cup"]],
            json!({ "kind": "seal.fill_outline", "outline": { "silhouette": { "along": [0.0, 0.0, 1.0], "at": [0.0, 0.0, -3.0] } } }),
        ),
        on(&[&["open block"]], json!({ "kind": "seal.fill_outline", "outline": { "edges": [[10.0, 0.0, 6.0]] } })),
        on(
            &[&["clashing block"], &["clashing gear"], &["clashing cup"]],
            json!({ "kind": "seal.agree_windings" }),
        )
        .any_faces()
        .not(CUTS),
        on(&[&["inverted block"], &["inverted gear"], &["inverted cup"]], json!({ "kind": "seal.turn_outward" })),
        on(
            &[&["doubled block"], &["speckled block"], &["speckled gear"]],
            json!({ "kind": "seal.drop", "duplicates": true, "degenerate": true, "specks_below": 0.1 }),
        )
        .not(CUTS),
        on(
            &[&["block"], &["housing"], &["cup"]],
            json!({ "kind": "seal.lift_out", "what": { "faces": [[1.0, 0.5, 0.0]] }, "rings": 0 }),
        ),
        on(&[&["block"], &["bracket"]], json!({ "kind": "seal.lift_out", "what": { "faces": [[10.0, 3.0, 5.0]] }, "rings": 0 })),
        on(
            &[&["ball"]],
            json!({ "kind": "seal.re_skin", "what": { "brush": [{ "near": [10.0, 0.0, 0.0], "radius": 4.0 }] }, "rings": 0 }),
        )
        .off(1e-2)
        .any_faces(),
        on(&[&["block"], &["inverted gear"], &["two blocks"]], json!({ "kind": "seal.turn", "what": "part" })),
        on(
            &[&["ball"], &["gear"], &["cup"]],
            json!({ "kind": "seal.smooth", "what": "all", "strength": 0.5, "passes": 3 }),
        )
        .any_faces()
        .not(CUTS),
        on(
            &[&["block"], &["bracket"], &["gear"], &["housing"], &["cup"], &["tube"], &["drum"], &["ball"]],
            json!({ "kind": "seal.group_faces" }),
        ),
        on(
            &[&["block"], &["bracket"], &["gear"], &["housing"], &["cup"], &["tube"]],
            json!({ "kind": "seal.merge_faces", "faces": "all", "tolerance": 1e-3, "simplify": true }),
        )
        .not(CUTS),
        on(&[&["two blocks"], &["two gears"], &["crossing blocks"]], json!({ "kind": "seal.pull_apart" })),
        on(&[&["block"], &["bracket"], &["cup"]], json!({ "kind": "seal.pull_apart", "into": "faces" })),
        on(
            &[&["open block", "flat sheet"], &["block", "flush block"], &["pipe", "bowl"]],
            json!({ "kind": "seal.join", "with": [2], "reach": 0.1 }),
        )
        .off(1e-3)
        .any_faces(),
        on(
            &[&["crossing blocks"], &["crossing gears"], &["crossing cups"], &["doubled block"], &["partitioned block"],
                &["open block"], &["open cup"], &["clashing gear"]],
            json!({ "kind": "seal.find_inside" }),
        )
        .off(1e-5)
        .any_faces(),
        // Held together by a rod.
        on(&[&["edge blocks"]], json!({ "kind": "seal.find_inside" })).off(1e-3).any_faces(),
        on(&[&["block"], &["open cup"],  &["two blocks"]], json!({ "kind": "seal.wrap", "resolution": 2.0 }))
            .off(0.08)
            .any_faces()
            .not(TURNS),
        on(
            &[&["open block"], &["open bracket"], &["open cup"], &["pipe"], &["crossing gears"], &["crossing cups"],
                &["noisy gear"], &["torn block"], &["inverted cup"], &["edge blocks"], &["doubled block"],
                &["partitioned block"]],
            json!({ "kind": "seal.plan" }),
        )
        .off(1e-3)
        .any_faces(),
        // How deep its base is comes to one digit of a millimetre.
        on(&[&["terrain"]], json!({ "kind": "seal.plan" })).off(1e-3).any_faces().not(&["small", "large", "all at once"]),
    ]
}

fn shaping() -> Vec<Tool> {
    let solids = [&["block"][..], &["bracket"], &["gear"], &["housing"], &["cup"], &["tube"]];
    let plane = |at: [f64; 3], normal: [f64; 3]| json!({ "at": at, "normal": normal });
    let saw = |at, normal| json!({ "kind": "shape.saw", "by": { "plane": plane(at, normal) } });
    let pairs = [
        &["block", "small block"][..],
        &["block", "flush block"],
        &["bracket", "gear"],
        &["housing", "drum"],
        &["cup", "pin"],
        &["tube", "gear"],
    ];
    vec![
        on(&pairs, json!({ "kind": "shape.union", "with": [2] })),
        on(&pairs, json!({ "kind": "shape.difference", "with": [2] })),
        on(&pairs, json!({ "kind": "shape.intersection", "with": [2] })),
        on(&[&["crossing blocks"], &["crossing gears"], &["crossing cups"], &["block"]], json!({ "kind": "shape.untangle" })),
        on(&solids, saw([1.0, 2.0, 3.1], [0.3, 0.2, 1.0])),
        on(&solids, saw([0.0, 0.0, 4.0], [0.0, 0.0, 1.0])),
        // Flush with faces of each of them.
        on(&[&["bracket"]], saw([6.0, 6.0, 0.0], [0.0, 1.0, 0.0])),
        on(&[&["housing"]], saw([0.0, 0.0, 3.0], [0.0, 0.0, 1.0])),
        on(&[&["cup"]], saw([0.0, 0.0, 2.5], [0.0, 0.0, 1.0])),
        on(&[&["block"], &["gear"]], saw([0.0, 0.0, 6.0], [0.0, 0.0, 1.0])),
        on(
            &[&["block"], &["bracket"], &["gear"]],
            json!({ "kind": "shape.saw", "by": { "plane": plane([3.1, 0.0, 0.0], [1.0, 0.0, 0.0]) },
                "pegs": { "count": 1, "diameter": 2.0, "length": 4.0, "clearance": 0.1 } }),
        )
        .off(1e-4)
        .any_faces()
        .moves(),
        on(
            &[&["block"], &["bracket"], &["gear"]],
            json!({ "kind": "shape.saw", "by": { "line": { "points": [[-50.0, -40.0, 0.0], [3.0, 1.0, 0.0], [50.0, 60.0, 0.0]],
                "along": [0.0, 0.0, 1.0] } } }),
        )
        // The grid spans the sheet that is swept along the line.
        .off(3e-6)
        .any_faces(),
        on(&[&["housing"], &["cup"]], json!({ "kind": "shape.chambers", "planes": [plane([0.0, 0.0, 10.0], [0.0, 0.0, 1.0])] })),
        // Flush with the rim.
        on(&[&["housing"]], json!({ "kind": "shape.chambers", "planes": [plane([0.0, 0.0, 14.0], [0.0, 0.0, 1.0])] })),
        on(&[&["cup"]], json!({ "kind": "shape.chambers", "planes": [plane([0.0, 0.0, 25.0], [0.0, 0.0, 1.0])] })),
        on(&[&["tube"]], json!({ "kind": "shape.chambers",
            "planes": [plane([0.0, 0.0, 30.0], [0.0, 0.0, 1.0]), plane([0.0, 0.0, 0.0], [0.0, 0.0, 1.0])] })),
        on(&[&["bracket"], &["gear"], &["cup"], &["ball"], &["housing"]], json!({ "kind": "shape.hull", "with": [] })),
        on(&[&["block"], &["bracket"], &["gear"]], json!({ "kind": "shape.place", "scale": 1.5, "by": [1.0, 2.0, 3.0] })).moves(),
        on(
            &[&["block"], &["bracket"], &["gear"]],
            json!({ "kind": "shape.place", "turn": { "axis": "z", "degrees": 30.0 }, "to_bench": true }),
        )
        .moves(),
        on(&[&["block"], &["bracket"], &["gear"]], json!({ "kind": "shape.mirror", "across": plane([20.0, 1.0, 0.0], [0.5, 1.0, 0.2]) })),
        on(
            &[&["open block"]],
            json!({ "kind": "shape.mirror", "across": plane([0.0, 0.0, 6.0], [0.0, 0.0, 1.0]), "join": true, "reach": 0.0 }),
        ),
        on(
            &[&["bowl"], &["pipe"]],
            json!({ "kind": "shape.mirror", "across": plane([0.0, 0.0, 0.0], [0.0, 0.0, 1.0]), "join": true, "reach": 0.0 }),
        ),
        on(
            &[&["bracket"], &["gear"], &["tube"]],
            json!({ "kind": "shape.mirror", "across": plane([0.0, 0.0, 0.0], [0.0, 0.0, 1.0]), "join": true, "reach": 0.0 }),
        ),
        on(
            &[&["block"], &["open cup"], &["gear"]],
            json!({ "kind": "shape.repeat", "copies": { "row": { "step": [40.0, 3.0, 1.0], "count": 3 } }, "join": false }),
        ),
        on(
            &[&["block"]],
            json!({ "kind": "shape.repeat", "copies": { "row": { "step": [0.0, 0.0, 12.0], "count": 3 } }, "join": true }),
        ),
        on(
            &[&["bracket"]],
            json!({ "kind": "shape.repeat", "copies": { "row": { "step": [0.0, 0.0, 10.0], "count": 3 } }, "join": true }),
        ),
        on(
            &[&["gear"]],
            json!({ "kind": "shape.repeat", "copies": { "row": { "step": [0.0, 0.0, 8.0], "count": 3 } }, "join": true }),
        ),
        on(
            &[&["tube"]],
            json!({ "kind": "shape.repeat", "copies": { "points": { "points": [[0.0, 0.0, 0.0], [0.0, 0.0, 30.0], [5.0, 0.0, 0.0]] } }, "join": true }),
        ),
        on(&[&["terrain"], &["flat sheet"]], json!({ "kind": "shape.base", "floor": { "below": 4.0 } })),
        on(&[&["edge blocks"], &["block"], &["crossing blocks"]], json!({ "kind": "shape.brace", "radius": 0.5 })).off(1e-3).any_faces(),
        on(
            &[&["block"]],
            json!({ "kind": "shape.profile", "plane": plane([1.0, 2.0, 3.0], [0.0, 0.0, 1.0]), "right": [1.0, 0.0, 0.0],
                "lines": [{ "name": "a", "draw": { "circle": { "centre": [1.0, 2.0], "diameter": 8.0 } } }] }),
        )
        .moves(),
        // Parts that are no profiles: refused in each pose alike. What profiles become is tried in `profiles.rs`.
        on(&[&["block"]], json!({ "kind": "shape.extrude", "above": 5.0 })),
        on(&[&["block"]], json!({ "kind": "shape.revolve", "axis": { "at": [0.0, 0.0], "way": [0.0, 1.0] } })),
        on(&[&["block"]], json!({ "kind": "shape.relief", "rest": 3.0 })),
        on(&[&["block"]], json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": [] } } })),
        on(&[&["block"]], json!({ "kind": "shape.loft", "profiles": [] })),
        on(&[&["block", "block"]], json!({ "kind": "shape.emboss", "profile": 2, "face": [0.0, 0.0, 6.0], "depth": 1.0 })),
        on(
            &[&["block"], &["bracket"], &["drum"], &["tube"]],
            json!({ "kind": "shape.round", "on": { "sharp": { "than": 30.0 } }, "radius": 0.75, "chord": 0.02 }),
        )
        .off(1e-3)
        .any_faces(),
        on(&[&["block"]], json!({ "kind": "shape.round", "on": { "edges": [[3.0, -8.0, 6.0]] }, "radius": 2.0, "far": 0.5, "chord": 0.02 }))
            .off(1e-4)
            .any_faces(),
        on(&[&["block"]], json!({ "kind": "shape.round", "on": { "faces": [[1.0, -8.0, 1.0]] }, "whole": true, "radius": 1.0, "chord": 0.02 }))
            .off(1e-4)
            .any_faces(),
        on(
            &[&["block"]],
            json!({ "kind": "shape.round", "on": { "edges": [[3.0, -8.0, 6.0]] }, "radius": 1.0, "chord": 0.02, "also": [
                { "on": { "edges": [[3.0, 8.0, 6.0]] }, "radius": 1.0, "along": [
                    { "at": [-2.0, 8.0, 6.0], "radius": 0.5 }, { "at": [2.0, 8.0, 6.0], "radius": 1.5 }
                ] }
            ] }),
        )
        .off(1e-4)
        .any_faces(),
        on(
            &[&["block"], &["bracket"], &["drum"]],
            json!({ "kind": "shape.chamfer", "on": { "sharp": { "sense": "outer", "than": 30.0 } }, "width": 0.5, "second": { "angle": 30.0 } }),
        )
        .off(1e-3)
        .any_faces(),
        // The sides of a block stand alike, so they never meet over its top: refused in each pose alike.
        on(&[&["block"], &["drum"]], json!({ "kind": "shape.take_off", "faces": [[0.0, 0.0, 6.0]] })),
        // Along edges of the part, whatever way they lie.
        on(
            &[&["block"], &["bracket"]],
            json!({ "kind": "shape.tube", "path": { "edges": [[3.0, -8.0, 0.0]] }, "diameter": 2.0, "chord": 0.01 }),
        )
        .off(1e-4)
        .any_faces(),
        on(
            &[&["block"]],
            json!({ "kind": "shape.tube", "diameter": 1.0, "wall": 0.25, "chord": 0.05,
                "path": { "helix": { "at": [0.0, 0.0, 0.0], "axis": [0.0, 0.0, 1.0], "radius": 8.0, "end": 9.0, "pitch": 3.0, "turns": 1.5, "begins": 0.0 } } }),
        )
        .moves(),
        on(&[&["open block"]], json!({ "kind": "shape.patch", "edges": [[3.0, -8.0, 6.0], [10.0, 1.0, 6.0], [3.0, 8.0, 6.0], [-10.0, 1.0, 6.0]] })),
        // Its walls go on upward, not into the patch: refused however it lies.
        on(&[&["open block"]], json!({ "kind": "shape.patch", "goes_on": true, "edges": [[3.0, -8.0, 6.0], [10.0, 1.0, 6.0], [3.0, 8.0, 6.0], [-10.0, 1.0, 6.0]] })),
        on(&[&["open block"]], json!({ "kind": "shape.trim_sheet", "by": { "plane": { "at": [1.0, 2.0, 1.0], "normal": [1.0, 0.5, 0.25] } } })),
        on(&[&["open block"]], json!({ "kind": "shape.extend_sheet", "edges": [[3.0, -8.0, 6.0], [10.0, 1.0, 6.0]], "by": 1.5 })),
        on(&[&["block"]], json!({ "kind": "shape.body", "body": { "block": { "size": [4.0, 5.0, 6.0] } }, "at": [1.0, 2.0, 3.0], "chord": 0.01 })).moves(),
        on(&[&["block"]], json!({ "kind": "shape.body", "body": { "ball": { "diameter": 8.0 } }, "at": [1.0, 2.0, 3.0], "chord": 0.01 })).moves(),
        on(
            &[&["block"]],
            json!({ "kind": "shape.body", "body": { "drum": { "diameter": 8.0, "height": 5.0, "bore": 3.0 } }, "at": [1.0, 2.0, 3.0], "chord": 0.01 }),
        )
        .moves(),
    ]
}

fn walls() -> Vec<Tool> {
    let solids = [&["block"][..], &["bracket"], &["gear"], &["housing"], &["cup"], &["tube"], &["drum"]];
    let sheets = [&["open block"][..], &["open cup"], &["pipe"], &["square pipe"]];
    let curved = [&["bowl"][..], &["terrain"]];
    let round = |step: Value| {
        let mut step = step;
        step["corners"] = json!("round");
        step["chord"] = json!(0.02);
        step
    };
    vec![
        on(&sheets, json!({ "kind": "wall.thicken", "outward": 1.0, "inward": 0.5 })),
        on(&curved, json!({ "kind": "wall.thicken", "outward": 1.0, "inward": 0.5 })).cut(1e-3).any_faces(),
        on(&sheets, round(json!({ "kind": "wall.thicken", "outward": 1.0 }))).off(1e-3).any_faces(),
        on(&[&["block"], &["housing"]], json!({ "kind": "wall.thicken", "outward": 2.0, "faces": [[1.0, 0.5, -6.0], [1.0, 0.5, 0.0]] })),
        on(&[&["bracket"]], json!({ "kind": "wall.shell", "wall": 1.5, "open": [[20.0, 3.0, 10.0]] })),
        on(&[&["gear"]], json!({ "kind": "wall.shell", "wall": 1.0, "open": [[8.0, 0.5, 8.0]] })),
        on(&[&["block"]], json!({ "kind": "wall.shell", "wall": 1.0, "open": [[1.0, 1.0, 6.0]],
            "walls": [{ "face": [1.0, 1.0, -6.0], "wall": 3.0 }] })),
        on(&[&["drum"]], json!({ "kind": "wall.shell", "wall": 1.0, "open": [[1.0, 1.0, 20.0]],
            "walls": [{ "face": [1.0, 1.0, 0.0], "wall": 3.0 }] })),
        on(&[&["block"], &["drum"]], json!({ "kind": "wall.shell", "wall": 1.0, "outward": true, "open": [[1.0, 1.0, 6.0], [1.0, 1.0, 20.0]] })),
        on(&solids, json!({ "kind": "wall.hollow", "wall": 0.8 })),
        on(&solids, round(json!({ "kind": "wall.hollow", "wall": 0.8 }))).off(1e-3).any_faces(),
        on(
            &[&["block"]],
            json!({ "kind": "wall.hollow", "wall": 1.0, "drains": [{ "at": [10.0, 1.0, 1.0], "diameter": 3.0, "plug": 0.1 }] }),
        )
        .off(1e-4),
        on(&[&["block"], &["gear"], &["housing"]], json!({ "kind": "wall.hollow", "wall": 1.0, "sampled": 0.5 })).off(0.05).any_faces(),
        on(&solids, json!({ "kind": "wall.coat", "thickness": 0.5 })),
        on(&solids, round(json!({ "kind": "wall.coat", "thickness": 0.5 }))).off(1e-3).any_faces(),
        on(&[&["block"]], json!({ "kind": "wall.coat", "thickness": 0.5, "bare": [[1.0, 1.0, -6.0]] })),
        on(&[&["bracket"], &["cup"], &["drum"]], json!({ "kind": "wall.coat", "thickness": 0.5, "bare": [[5.0, 1.0, 0.0]] })),
        on(&solids, json!({ "kind": "wall.grow", "by": 0.7 })),
        on(&solids, json!({ "kind": "wall.grow", "by": -0.7 })),
        on(&solids, round(json!({ "kind": "wall.grow", "by": 0.7 }))).off(1e-3).any_faces(),
        on(
            &[&["block", "small block"], &["housing", "drum"], &["cup", "pin"]],
            json!({ "kind": "wall.grow", "by": 0.5, "less": 2 }),
        ),
        on(&[&["open cup"], &["pipe"], &["bowl"], &["terrain"]], json!({ "kind": "wall.offset_sheet", "distance": 1.0 })),
        on(&[&["tube"], &["cup"], &["housing"], &["block"]], json!({ "kind": "wall.offset_sheet", "distance": -0.5 })),
        on(&[&["block"], &["bracket"]], json!({ "kind": "wall.offset_sheet", "distance": 1.0, "faces": [[10.0, 3.0, 5.0]], "run": true })),
        on(&[&["block"], &["cup"], &["gear"]], json!({ "kind": "wall.even", "keep": [], "wall": 1.0 })).off(1e-3),
    ]
}

fn weighing() -> Vec<Tool> {
    let fill = |at: [f64; 3], to: Value| json!({ "kind": "weigh.fill", "vessel": { "at": at, "up": [0.0, 0.0, 1.0] }, "to": to });
    let mut tools = vec![];
    for to in [json!("brim"), json!({ "depth": 5.0 }), json!({ "volume": 400.0 }), json!({ "depth": 60.0 })] {
        tools.push(on(&[&["cup"]], fill([1.0, 1.0, 2.5], to.clone())));
        tools.push(on(&[&["housing"]], fill([1.0, 1.0, 3.0], to)));
    }
    tools.push(on(
        &[&["bowl"]],
        json!({ "kind": "weigh.fill",
        "vessel": { "at": [0.0, 0.0, -10.0], "seen": [0.0, 0.0, 20.0], "up": [0.0, 0.0, 1.0] }, "to": "brim" }),
    ));
    tools.push(
        on(&[&["block"], &["gear"], &["cup"]], json!({ "kind": "weigh.scale_pattern", "shrinkage": [1.5, 1.5, 1.5] }))
            .moves(),
    );
    tools
}

fn fastening() -> Vec<Tool> {
    let bore = |at: [f64; 3], form: Value| json!({ "kind": "fasten.bore", "places": { "points": [at] }, "form": form, "chord": 0.01 });
    let plain = json!({ "plain": { "width": 3.0 } });
    let thread = json!({ "size": { "diameter": 10.0, "pitch": 1.5, "angle": 60.0 } });
    vec![
        on(&[&["block"]], bore([2.0, 1.0, 6.0], plain.clone())),
        on(&[&["bracket"], &["gear"]], bore([9.0, 1.0, 0.0], plain.clone())).off(1e-4),
        on(&[&["tube"], &["pin"], &["drum"]], bore([9.9, 1.0, 10.0], plain.clone())),
        on(&[&["housing"], &["cup"]], bore([1.0, 1.0, 0.0], plain)),
        on(&[&["block"]], bore([2.0, 1.0, 6.0], json!({ "countersunk": { "width": 3.0, "head": 6.0, "angle": 90.0 } }))),
        on(&[&["block"]], bore([2.0, 1.0, 6.0], json!({ "counterbored": { "width": 3.0, "head": 6.0, "depth": 3.0 } }))),
        on(&[&["block"]], bore([2.0, 1.0, 6.0], json!({ "teardrop": { "width": 3.0, "up": [1.0, 0.0, 0.0] } }))),
        on(&[&["block"]], bore([2.0, 1.0, 6.0], json!({ "slot": { "width": 3.0, "length": 8.0, "way": [1.0, 0.0, 0.0] } }))),
        on(
            &[&["block"], &["housing"]],
            json!({ "kind": "fasten.bore", "places": { "row": { "from": [-6.0, 1.0, -6.0], "to": [6.0, 1.0, -6.0], "count": 3 } },
                "along": [0.0, 0.0, 1.0], "form": { "plain": { "width": 2.0 } }, "chord": 0.01 }),
        ),
        on(&[&["pin"]], json!({ "kind": "fasten.thread", "faces": [[4.98, 0.3, 20.0]], "thread": thread, "length": 8.0, "chord": 0.02 }))
            .off(5e-3)
            .any_faces(),
        on(&[&["pin"]], json!({ "kind": "fasten.thread", "faces": [[4.98, 0.3, 3.0]], "thread": thread, "length": 8.0, "chord": 0.02 }))
            .off(5e-3)
            .any_faces(),
        on(
            &[&["gear"]],
            json!({ "kind": "fasten.thread", "faces": [[3.98, 0.2, 4.0]],
                "thread": { "size": { "diameter": 9.0, "pitch": 1.25, "angle": 60.0 } }, "chord": 0.02 }),
        )
        // Lead-ins are sizes of the trade.
        .not(&["small", "large"])
        .off(5e-3)
        .any_faces(),
        on(
            &[&["block"]],
            json!({ "kind": "fasten.stud", "thread": thread, "length": 12.0, "at": [20.0, 3.0, 1.0], "along": [0.0, 0.0, 1.0], "chord": 0.02 }),
        )
        .off(1e-4)
        .any_faces()
        .moves(),
        on(&[&["gear"], &["tube"]], json!({ "kind": "fasten.plug", "wall": [3.98, 0.2, 4.0] })),
        on(&[&["tube"]], json!({ "kind": "fasten.plug", "wall": [7.97, 0.5, 14.0] })),
        on(&[&["gear"]], json!({ "kind": "fasten.rebore", "wall": [3.98, 0.2, 4.0], "diameter": 9.0, "chord": 0.01 })),
        on(&[&["tube"]], json!({ "kind": "fasten.rebore", "wall": [7.97, 0.5, 14.0], "diameter": 17.0, "chord": 0.01 })),
    ]
}
