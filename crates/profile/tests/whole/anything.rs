//! Whatever is drawn, a body tool gives a closed body of the right volume, a sheet, or a refusal; never anything else.

use std::f64::consts::{PI, TAU};

use crate::lines::{any_line, network};
use nimbet_kernel::measure::measure;
use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::triangulate::PlaneFrame;
use nimbet_kernel::{Mesh, Point, Progress};
use nimbet_profile::Flat;
use nimbet_profile::bodies::*;
use proptest::prelude::*;

/// The volume of a body, if each of its edges is between two triangles.
fn closed(mesh: &Mesh) -> Option<f64> {
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    (topology.edges_with(EdgeUse::Regular).count() == topology.edge_count()).then(|| measure(mesh).volume)
}

/// The area of flat outlines.
fn area(flat: &Flattened) -> f64 {
    let twice = |o: &Vec<_>, at: &dyn Fn(usize) -> Flat| {
        (0..o.len()).map(|k| at(k).perp_dot(at((k + 1) % o.len()))).sum::<f64>()
    };
    flat.outlines.iter().map(|o| twice(&o.iter().map(|v| v.at).collect(), &|k| o[k].at)).sum::<f64>() * 0.5
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn any_drawing_makes_valid_bodies_or_is_refused(
        lines in proptest::collection::vec(any_line(), 1..10),
        picks in any::<u64>(),
        draft in -8.0..8.0_f64,
        turn in 5.0..360.0_f64,
        side in -60.0..160.0_f64,
    ) {
        let (network, quiet) = (network(&lines), Progress::unwatched());
        let regions = network.regions(&quiet).unwrap();
        let plane = PlaneFrame::new(Point::new(3.0, -2.0, 1.0), Point::new(1.0, 2.0, 3.0)).unwrap();
        let picked: Vec<usize> = (0..regions.len()).filter(|r| picks >> (r % 64) & 1 == 0).collect();
        match flatten_regions(&network, &regions, &picked, 0.05) {
            Ok(flat) => {
                let exact: f64 = picked.iter().map(|r| regions[*r].area).sum();
                let round: f64 = picked.iter().flat_map(|r| &regions[*r].outlines).flatten().map(|s| network.side(*s).length()).sum();
                prop_assert!((area(&flat) - exact).abs() <= round * 0.05 + 1e-9, "{} {exact}", area(&flat));
                let body = extrude(&flat, &plane, &Extrusion { below: 1.0, above: 2.0, draft: 0.0 }).unwrap();
                let volume = closed(&body).ok_or_else(|| TestCaseError::fail("a gap in an extruded body"))?;
                prop_assert!((volume - 3.0 * area(&flat)).abs() < 1e-6 * (1.0 + volume));
                let leaning = Extrusion { below: 1.0, above: 2.0, draft: draft.to_radians() };
                if let Ok(body) = extrude(&flat, &plane, &leaning) {
                    prop_assert!(closed(&body).is_some_and(|v| v > 0.0));
                }
                // Pappus holds for the flat outlines turned in fine steps, where they lie on one side.
                let axis = Axis { at: Flat::new(side, 0.0), way: Flat::Y, from: 0.1, to: 0.1 + turn.to_radians() };
                match revolve(&flat, &plane, &axis, 0.001) {
                    Ok(body) => {
                        let volume = closed(&body).ok_or_else(|| TestCaseError::fail("a gap in a turned body"))?;
                        let far: f64 = flat.triangles.iter().map(|t| {
                            let [a, b, c] = t.map(|i| flat.vertices().nth(i).unwrap().at);
                            ((a + b + c).x / 3.0 - side).abs() * (b - a).perp_dot(c - a) * 0.5
                        }).sum();
                        let swept = far * turn.to_radians().min(TAU);
                        prop_assert!((volume / swept - 1.0).abs() < 2e-3, "{volume} {swept}");
                    }
                    Err(BodyError::Refused { places, .. }) => prop_assert!(places.len() == 1),
                    Err(other) => return Err(TestCaseError::fail(other.to_string())),
                }
            }
            Err(BodyError::Refused { .. }) => prop_assert!(picked.is_empty()),
            Err(other) => return Err(TestCaseError::fail(other.to_string())),
        }
        for chain in network.chains() {
            if let Ok(line) = flatten_chain(&network, &chain, 0.05) {
                let sheet = extrude_chain(&line, chain.closed, &plane, (0.0, 2.0)).unwrap();
                let length: f64 = line.windows(2).map(|w| w[0].0.distance(w[1].0)).sum();
                prop_assert!(measure(&sheet).area >= length * 2.0 - 1e-6);
                prop_assert!(measure(&sheet).area <= (length + PI * 200.0) * 2.0);
            }
        }
    }
}
