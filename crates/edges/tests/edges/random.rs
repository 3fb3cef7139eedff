//! Random bodies, random edges, sections from tiny to far too large: a solid, or a refusal with the place and what would do.

use nimbet_edges::graph::Graph;
use nimbet_edges::plan::{Planner, Wanted};
use nimbet_edges::station::Section;
use nimbet_edges::{EdgeError, finish};
use nimbet_kernel::arrange::Arrangement;
use nimbet_kernel::{Mesh, Point, Progress, shapes};

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
    let plain = match dice.one_of(4) {
        0 | 1 => {
            let size = size(dice);
            shapes::block(size * -0.5, size)
        }
        2 => {
            let (radius, height) = (dice.within(3.0, 10.0), dice.within(4.0, 20.0));
            shapes::turned(
                &[(0.0, -height * 0.5), (radius, -height * 0.5), (radius, height * 0.5), (0.0, height * 0.5)],
                32 + dice.one_of(40),
            )
        }
        _ => {
            let (foot, top, height) = (dice.within(4.0, 10.0), dice.within(1.0, 8.0), dice.within(4.0, 15.0));
            shapes::turned(&[(0.0, 0.0), (foot, 0.0), (top, height), (0.0, height)], 32 + dice.one_of(40))
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
    made
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
    let section = if dice.one_of(4) == 0 {
        Section::Chamfer { left: size, right: size * dice.within(0.5, 2.0) }
    } else {
        Section::Round { radius: size }
    };
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
    let clock = std::time::Instant::now();
    let told_slow = |what: &str| {
        if clock.elapsed().as_secs() > 3 && std::env::var("CLOCK").is_ok() {
            eprintln!("{what} at {:.1?}", clock.elapsed());
        }
    };
    let first = one(1.0);
    told_slow("asked");
    let sections = planner.largest(&wanted).unwrap();
    told_slow("by sections");
    let largest = nimbet_edges::largest(&planner, &wanted, true).unwrap();
    told_slow(&format!("size {size} {section:?} of {} runs, by sections {sections}, largest {largest}", wanted.len()));
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

#[test]
#[ignore = "looks at one seed"]
fn look() {
    let quiet = Progress::unwatched();
    let seeds = std::env::var("SEEDS").unwrap();
    for seed in seeds.split(',').map(|s| s.parse::<u64>().unwrap()) {
        let dice = &mut Dice(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
        for _ in 0..8 {
            dice.next();
        }
        let part = body(dice);
        let graph = Graph::of(&part, &quiet).unwrap();
        let planner = Planner::new(&graph, 0.02, &quiet);
        for e in [7usize, 23, 24] {
            if let Some(r) = graph.runs.get(e) {
                eprintln!(
                    "  {e} {:.4} {:.4} faces {:?}",
                    graph.place(graph.ends(r.edges[0])[0]),
                    graph.place(graph.ends(r.edges[0])[1]),
                    graph.beside(r.edges[0]).map(|f| (f.0, graph.faces.probe(f, Point::ZERO).normal))
                );
            }
        }
        eprintln!(
            "== seed {seed}: {} triangles, {} runs, {} faces",
            part.triangles().len(),
            graph.runs.len(),
            part.face_of().iter().collect::<std::collections::HashSet<_>>().len()
        );
        let only: Option<usize> = std::env::var("RUN").ok().and_then(|s| s.parse().ok());
        for (n, run) in graph.runs.iter().enumerate().filter(|(n, _)| only.is_none_or(|o| o == *n)) {
            let ends = [graph.ends(run.edges[0])[0], graph.ends(run.edges[run.edges.len() - 1])[1]];
            let made = finish(
                &planner,
                &[Wanted::all_along(
                    n as u32,
                    Section::Round { radius: std::env::var("R").ok().and_then(|s| s.parse().ok()).unwrap_or(0.05) },
                )],
                true,
                &quiet,
            );
            let told = match &made {
                Ok(_) => "made".to_string(),
                Err(EdgeError::Trouble(t)) => format!("{:?} at {:.3}", t.cause, t.at),
                Err(e) => e.to_string(),
            };
            let kinds = graph.beside(run.edges[0]).map(|f| graph.faces.surface(f).map(|s| s.kind()));
            if told != "made" {
                eprintln!(
                    "run {n}: {} edges closed {} convex {} {:.3} ({}) - {:.3} ({}) {kinds:?} turn {:.1}: {told}",
                    run.edges.len(),
                    run.closed,
                    run.convex,
                    graph.place(ends[0]),
                    graph.at[&ends[0]].len(),
                    graph.place(ends[1]),
                    graph.at[&ends[1]].len(),
                    graph.edges[run.edges[0].0 as usize].turn.to_degrees()
                );
            }
        }
    }
}
