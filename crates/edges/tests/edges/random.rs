//! Random bodies, random edges, sections from tiny to far too large: a solid, or a refusal with the place and what would do.

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Planner, Wanted};
use nimbet_edges::station::Section;
use nimbet_edges::{EdgeError, finish};
use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::{FaceId, Mesh, Point, Progress, shapes};

use crate::making::*;

/// Figures that follow from a seed.
struct Dice(u64);

impl Dice {
    fn next(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }

    fn within(&mut self, from: f64, to: f64) -> f64 {
        from + (to - from) * self.next()
    }

    fn one_of(&mut self, n: usize) -> usize {
        (self.next() * n as f64) as usize % n
    }
}

fn simple(dice: &mut Dice) -> Mesh {
    let size = |dice: &mut Dice| Point::new(dice.within(4.0, 20.0), dice.within(4.0, 20.0), dice.within(4.0, 20.0));
    let segments = 32 + dice.one_of(40);
    let plain = match dice.one_of(9) {
        0 | 1 => {
            let size = size(dice);
            shapes::block(size * -0.5, size)
        }
        2 => {
            let (radius, half) = (dice.within(3.0, 10.0), dice.within(2.0, 10.0));
            shapes::turned(&[(0.0, -half), (radius, -half), (radius, half), (0.0, half)], segments)
        }
        3 => {
            let (foot, top, height) = (dice.within(4.0, 10.0), dice.within(1.0, 8.0), dice.within(4.0, 15.0));
            shapes::turned(&[(0.0, 0.0), (foot, 0.0), (top, height), (0.0, height)], segments)
        }
        4 => shapes::ball(dice.within(3.0, 10.0), 16 + dice.one_of(16)),
        // A wall round an axis, and a rib.
        5 => {
            let (inner, wall, height) = (dice.within(2.0, 8.0), dice.within(0.8, 4.0), dice.within(3.0, 15.0));
            let (a, b) = (inner, inner + wall);
            shapes::turned(&[(a, 0.0), (b, 0.0), (b, height), (a, height), (a, 0.0)], segments)
        }
        6 => {
            let size = Point::new(dice.within(8.0, 25.0), dice.within(0.8, 3.0), dice.within(4.0, 15.0));
            shapes::block(size * -0.5, size)
        }
        // A star of any number of points, drawn out.
        _ => {
            let count = 3 + dice.one_of(6);
            let corner = |k: usize, dice: &mut Dice| {
                let (sin, cos) = (k as f64 / count as f64 * std::f64::consts::TAU).sin_cos();
                let far = dice.within(4.0, 12.0);
                [cos * far, sin * far]
            };
            let outline: Vec<[f64; 2]> = (0..count).map(|k| corner(k, dice)).collect();
            drawn_out(&outline, dice.within(3.0, 15.0))
        }
    };
    let turn = glam::DQuat::from_euler(
        glam::EulerRot::XYZ,
        dice.within(0.0, 6.3),
        dice.within(0.0, 6.3),
        dice.within(0.0, 6.3),
    );
    let turn = if dice.one_of(2) == 0 { glam::DQuat::IDENTITY } else { turn };
    let by = Point::new(dice.within(-8.0, 8.0), dice.within(-8.0, 8.0), dice.within(-8.0, 8.0));
    let by = if dice.one_of(2) == 0 { by.round() } else { by };
    grouped(plain.map_points(|p| turn * p + by).unwrap())
}

fn body(dice: &mut Dice) -> Mesh {
    let quiet = Progress::unwatched();
    let mut made = simple(dice);
    for _ in 0..dice.one_of(3) {
        let other = simple(dice);
        let all = Arrangement::new(&[&made, &other], &[], &quiet).unwrap();
        let adds = dice.one_of(2) == 0;
        let next = all.body(|w| if adds { w[0] > 0 || w[1] > 0 } else { w[0] > 0 && w[1] <= 0 }, &quiet).unwrap().mesh;
        if !next.triangles().is_empty() {
            made = next;
        }
    }
    if dice.one_of(3) == 0 { divided(&made, dice) } else { made }
}

/// The same body as somebody else's triangles: divided at random edges, its faces found again.
fn divided(mesh: &Mesh, dice: &mut Dice) -> Mesh {
    let (mut points, mut triangles, _) = mesh.clone().into_parts();
    for _ in 0..triangles.len() {
        let t = dice.one_of(triangles.len());
        let k = dice.one_of(3);
        let [a, b] = [triangles[t][k], triangles[t][(k + 1) % 3]];
        let new = points.len() as u32;
        points.push(points[a as usize].lerp(points[b as usize], dice.within(0.2, 0.8)));
        for t in 0..triangles.len() {
            let own = triangles[t];
            let Some(k) = (0..3).find(|k| {
                let side = [own[*k], own[(*k + 1) % 3]];
                side == [a, b] || side == [b, a]
            }) else {
                continue;
            };
            triangles[t][(k + 1) % 3] = new;
            let mut rest = own;
            rest[k] = new;
            triangles.push(rest);
        }
    }
    let faces = vec![FaceId(0); triangles.len()];
    grouped(Mesh::new(points, triangles, faces).unwrap())
}

/// The two longest runs along the face to the left of one.
fn longest_beside(graph: &Graph<'_>, run: u32) -> Vec<u32> {
    let face = graph.beside(graph.runs[run as usize].edges[0])[0];
    let beside = |r: &u32| graph.runs[*r as usize].edges.iter().any(|e| graph.beside(*e).contains(&face));
    let length = |r: &u32| {
        let ends = graph.runs[*r as usize].edges.iter().map(|e| graph.ends(*e).map(|v| graph.place(v)));
        ends.map(|[a, b]| a.distance(b)).sum::<f64>()
    };
    let mut runs: Vec<u32> = (0..graph.runs.len() as u32).filter(beside).collect();
    runs.sort_by(|a, b| length(b).total_cmp(&length(a)));
    runs.truncate(2);
    runs
}

/// What comes of one seed: a word for the tally.
fn tried(seed: u64) -> String {
    let quiet = Progress::unwatched();
    let dice = &mut Dice(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
    for _ in 0..8 {
        dice.next();
    }
    let part = body(dice);
    if flaw(&part).is_some() {
        return "unfit to begin with".into();
    }
    let graph = Graph::of(&part, &quiet).unwrap();
    if graph.runs.is_empty() {
        return "no edges".into();
    }
    let planner = Planner::new(&graph, 0.02, &quiet);
    let share = [0.1, 0.3, 1.0][dice.one_of(3)];
    let chosen: Vec<u32> = (0..graph.runs.len() as u32).filter(|_| dice.next() < share).collect();
    let chosen = if chosen.is_empty() { vec![dice.one_of(graph.runs.len()) as u32] } else { chosen };
    let size = 10f64.powf(dice.within(-1.5, 0.8));
    let section = match dice.one_of(8) {
        0 | 1 => Section::Chamfer { left: size, right: size * dice.within(0.5, 2.0) },
        2 => Section::Over,
        _ => Section::Round { radius: size },
    };
    // Over a whole face go the two longest runs beside it.
    let chosen = if section == Section::Over { longest_beside(&graph, chosen[0]) } else { chosen };
    let wanted: Vec<Wanted> = chosen.iter().map(|r| Wanted::all_along(*r, section)).collect();
    let one = |by: f64| {
        let wanted: Vec<Wanted> = wanted.iter().map(|w| w.scaled(by)).collect();
        match finish(&planner, &wanted, true, &quiet) {
            Ok(done) => match flaw(&done.mesh) {
                Some(flaw) => format!("FLAW {flaw}"),
                None => {
                    let change = volume(&done.mesh) - volume(&part);
                    let convex = chosen.iter().all(|r| graph.runs[*r as usize].convex);
                    let concave = chosen.iter().all(|r| !graph.runs[*r as usize].convex);
                    if (convex && change >= 0.0) || (concave && change <= 0.0) {
                        "WRONG WAY".into()
                    } else {
                        "made".into()
                    }
                }
            },
            Err(EdgeError::Trouble(t)) => format!("{:?}", t.cause),
            Err(other) => format!("FAULT {other}"),
        }
    };
    if std::env::var("SHOW").is_ok() {
        for r in &chosen {
            let run = &graph.runs[*r as usize];
            println!(
                "run {r} convex {} closed {} edges {} len {:.3} {:?} {:?}",
                run.convex,
                run.closed,
                run.edges.len(),
                run.edges
                    .iter()
                    .map(|e| {
                        let [a, b] = graph.ends(*e).map(|v| graph.place(v));
                        a.distance(b)
                    })
                    .sum::<f64>(),
                section,
                graph.place(graph.ends(run.edges[0])[0])
            );
        }
        let l = nimbet_edges::largest(&planner, &wanted, true, f64::INFINITY).unwrap();
        println!("largest {l}");
        for by in [1.0, l * 0.5, l, l * 1.1] {
            let w: Vec<Wanted> = wanted.iter().map(|w| w.scaled(by)).collect();
            if let Ok(d) = finish(&planner, &w, true, &quiet) {
                println!(
                    "{by} change {} passed {:?} vanished {}",
                    volume(&d.mesh) - volume(&part),
                    d.passed,
                    d.vanished.len()
                );
            }
        }
    }
    let first = one(1.0);
    if section == Section::Over {
        return format!("over {first}");
    }
    let largest = nimbet_edges::largest(&planner, &wanted, true, f64::INFINITY).unwrap();
    let told = if largest > 0.0 { one(largest) } else { "nothing".into() };
    let beyond = if largest > 0.0 { one(largest * 1.1) } else { "nothing".into() };
    let small = one((largest * 0.2).min(1.0));
    format!(
        "{} as asked {first}; largest {told}; beyond {beyond}; a fifth {small}",
        if largest >= 1.0 { "fits" } else { "too large" }
    )
}

/// Words of a tally that must not come.
const FAULTS: [&str; 4] = ["FLAW", "FAULT", "WRONG WAY", "PANIC"];

#[test]
fn random_edges_of_random_bodies_give_a_solid_or_say_what_would_do() {
    let words: Vec<String> = (0..40).map(tried).collect();
    for (seed, word) in words.iter().enumerate() {
        assert!(FAULTS.iter().all(|fault| !word.contains(fault)), "{seed}: {word}");
        // What is told to be the largest works.
        assert!(
            word.contains("largest made") || word.contains("largest nothing") || !word.contains(';'),
            "{seed}: {word}"
        );
    }
    let made = words.iter().filter(|w| w.contains("largest made")).count();
    assert!(made * 2 > words.len(), "{made} of {}", words.len());
}

#[test]
#[ignore = "minutes: the long run of what its figures in the documentation say"]
fn a_long_run_of_random_bodies() {
    let from: u64 = std::env::var("FROM").ok().and_then(|s| s.parse().ok()).unwrap_or(0);
    let count: u64 = std::env::var("COUNT").ok().and_then(|s| s.parse().ok()).unwrap_or(200);
    let mut tally: std::collections::BTreeMap<String, Vec<u64>> = std::collections::BTreeMap::new();
    for seed in from..from + count {
        let begun = std::time::Instant::now();
        let word = std::panic::catch_unwind(|| tried(seed)).unwrap_or_else(|_| "PANIC".into());
        if begun.elapsed().as_secs() > 3 {
            eprintln!("slow {seed}: {:.1?} {word}", begun.elapsed());
        }
        tally.entry(word).or_default().push(seed);
    }
    let mut tally: Vec<_> = tally.into_iter().collect();
    tally.sort_by_key(|(_, seeds)| std::cmp::Reverse(seeds.len()));
    for (word, seeds) in tally {
        eprintln!("{:4} {word}: {:?}", seeds.len(), &seeds[..seeds.len().min(6)]);
    }
}
