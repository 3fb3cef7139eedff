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
    let segments = (32 + dice.one_of(40)) * std::env::var("FINER").map_or(1, |s| s.parse().unwrap());
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
    if dice.one_of(3) == 0 && std::env::var("NODIV").is_err() { divided(&made, dice) } else { made }
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
            Err(EdgeError::Trouble(t)) if std::env::var("CLOCK").is_ok() => format!("{:?} {} {:.3}", t.cause, t.run, t.at),
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
    if section == Section::Over {
        return format!("over {first}");
    }
    let sections = planner.largest(&wanted).unwrap();
    told_slow("by sections");
    let largest = nimbet_edges::largest(&planner, &wanted, true).unwrap();
    told_slow(&format!("size {size} {section:?} of {} runs, by sections {sections}, largest {largest}", wanted.len()));
    let told = if largest > 0.0 { one(largest) } else { "nothing".into() };
    let beyond = if largest > 0.0 { one(largest * 1.1) } else { "nothing".into() };
    let small = one((largest * 0.2).min(1.0));
    if std::env::var("CLOCK").is_ok() {
        eprintln!("{size} {section:?} of {chosen:?}, by sections {sections}, largest {largest}");
        let scale = |by: f64| if largest > 0.0 { largest * by } else { 0.5f64.powf(by * 4.0) / size };
        for by in [0.5, 0.8, 0.9, 1.0, 1.05, 1.1, 1.2, 1.5, 2.0, 3.0] {
            let w: Vec<Wanted> = wanted.iter().map(|w| w.scaled(scale(by))).collect();
            let all = match planner.spines(&w) { Ok(_) => "ok".into(), Err(EdgeError::Trouble(t)) => format!("{:?} {} {:.3}", t.cause, t.run, t.at), Err(_) => "?".into() };
            eprintln!("   {by}: {} sections {all}", one(scale(by)));
        }
    }
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
        eprintln!(
            "== seed {seed}: {} triangles, {} runs, {} faces",
            part.triangles().len(),
            graph.runs.len(),
            part.face_of().iter().collect::<std::collections::HashSet<_>>().len()
        );
        let only: Option<usize> = std::env::var("RUN").ok().and_then(|s| s.parse().ok());
        if let Ok(runs) = std::env::var("RUNS") {
            let r: f64 = std::env::var("R").unwrap().parse().unwrap();
            if runs == "least" {
                let fails = |set: &[u32]| {
                    let wanted: Vec<Wanted> = set.iter().map(|s| Wanted::all_along(*s, Section::Round { radius: r })).collect();
                    finish(&planner, &wanted, true, &quiet).is_err()
                };
                let mut set: Vec<u32> = (0..graph.runs.len() as u32).collect();
                if !fails(&set) { eprintln!("   all made"); continue; }
                let mut k = 0;
                while k < set.len() {
                    let less: Vec<u32> = set.iter().copied().filter(|s| *s != set[k]).collect();
                    if !less.is_empty() && fails(&less) { set = less } else { k += 1 }
                }
                eprintln!("   least {set:?}");
                for n in &set {
                    let run = &graph.runs[*n as usize];
                    let ends = [graph.ends(run.edges[0])[0], graph.ends(run.edges[run.edges.len() - 1])[1]];
                    let kinds = graph.beside(run.edges[0]).map(|f| (f.0, graph.faces.surface(f).map(|s| s.kind())));
                    eprintln!("      run {n} {} edges convex {} {:.3} ({}) - {:.3} ({}) {kinds:?} turn {:.1}", run.edges.len(), run.convex, graph.place(ends[0]), graph.at[&ends[0]].len(), graph.place(ends[1]), graph.at[&ends[1]].len(), graph.edges[run.edges[0].0 as usize].turn.to_degrees());
                    for v in ends { for e in &graph.at[&v] {
                        let [a, b] = graph.edges[*e as usize].ends;
                        let to = if a == v { b } else { a };
                        let f = graph.beside((*e, true));
                        eprintln!("         {:.3}: run {} way {:.3} convex {} {:?}", graph.place(v), graph.run_of[*e as usize], (graph.place(to) - graph.place(v)).normalize(), graph.edges[*e as usize].convex, f.map(|f| f.0));
                    } }
                }
                continue;
            }
            let sets: Vec<Vec<u32>> = if runs == "minus" {
                (0..graph.runs.len() as u32).map(|k| (0..graph.runs.len() as u32).filter(|n| *n != k).collect()).collect()
            } else { vec![runs.split(',').map(|s| s.parse().unwrap()).collect()] };
            for (k, set) in sets.iter().enumerate() {
            let wanted: Vec<Wanted> = set.iter().map(|s| Wanted::all_along(*s, Section::Round { radius: r })).collect();
            match finish(&planner, &wanted, true, &quiet) {
                Ok(_) => eprintln!("   {k} made"),
                Err(EdgeError::Trouble(t)) => eprintln!("   {k} {t:?}"),
                Err(e) => eprintln!("   {e}"),
            }
            }
            continue;
        }
        if let Ok(at) = std::env::var("AT") {
            let at: Vec<f64> = at.split(',').map(|s| s.parse().unwrap()).collect();
            let at = Point::new(at[0], at[1], at[2]);
            let mut near: Vec<u32> = graph.at.keys().copied().filter(|v| graph.at[v].len() > 2).collect();
            near.sort_by(|a, b| graph.place(*a).distance(at).total_cmp(&graph.place(*b).distance(at)));
            for v in near.iter().take(2) {
                eprintln!("   corner {:.4} off {:.4}", graph.place(*v), graph.place(*v).distance(at));
                for e in &graph.at[v] {
                    let [a, b] = graph.edges[*e as usize].ends;
                    let to = if a == *v { b } else { a };
                    let way = graph.place(to) - graph.place(*v);
                    let f = graph.beside((*e, true));
                    eprintln!("      run {} {:.3} long {:.4} convex {} {:?} {:.4} {:.4}", graph.run_of[*e as usize], way.normalize(), way.length(), graph.edges[*e as usize].convex, f.map(|f| (f.0, graph.faces.surface(f).map(|s| s.kind()))), graph.faces.probe(f[0], graph.place(*v)).normal, graph.faces.probe(f[1], graph.place(*v)).normal);
                }
            }
            continue;
        }
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
            if told != "made" || only.is_some() {
                for e in &run.edges {
                    let f = graph.beside(*e);
                    eprintln!("   edge {:.4} {:.4} {:?} tri {:?} {:?}", graph.place(graph.ends(*e)[0]), graph.place(graph.ends(*e)[1]), f.map(|f| f.0), f.map(|f| part.face_of().iter().filter(|g| **g == f).count()), f.map(|f| graph.faces.surface(f)));
                }
                for (n, v) in ends.iter().enumerate() {
                    eprintln!("   end {n} {:.3}", graph.place(*v));
                    for e in &graph.at[v] {
                        let [a, b] = graph.edges[*e as usize].ends;
                        let to = if a == *v { b } else { a };
                        let way = (graph.place(to) - graph.place(*v)).normalize();
                        let faces = graph.beside((*e, true)).map(|f| (f.0, graph.faces.surface(f).map(|s| s.kind())));
                        let normals = graph.beside((*e, true)).map(|f| graph.faces.probe(f, graph.place(*v)).normal);
                        eprintln!("      run {} {:.3} convex {} {faces:?} {:.3} {:.3}", graph.run_of[*e as usize], way, graph.edges[*e as usize].convex, normals[0], normals[1]);
                    }
                }
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
