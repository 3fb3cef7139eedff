//! Every figure of every tool as people should not type it: an answer comes soon, and takes little memory.
#![allow(clippy::unwrap_used, clippy::panic, dead_code)] // a failed test says so by panicking; the parts are shared

#[path = "whole/dice/mod.rs"]
mod dice;
#[path = "whole/lies/mod.rs"]
mod lies;

use std::sync::mpsc::{RecvTimeoutError, channel};
use std::sync::{Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};

use lies::parts::part;
use lies::tools::{Tool, tools};
use nimbet_kernel::{Mesh, Progress};
use nimbet_trade::budget::{Extent, refuse_costly};
use nimbet_trade::{Operation, TradeError, examine};
use peak_alloc::PeakAlloc;
use serde_json::{Value, json};

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// Memory is counted for the whole process: whoever counts it is alone.
static ALONE: Mutex<()> = Mutex::new(());

fn alone() -> MutexGuard<'static, ()> {
    ALONE.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The most a step may take with a figure nobody means, MB.
const MOST_MB: f64 = 100.0;
/// After this it is told to stop. A second is what is asked for; machines that are busy otherwise are let take longer.
const SOON: Duration = Duration::from_secs(10);

const FIGURES: [f64; 9] = [0.0, -1.0, 1e-300, 1e-12, 1e-3, 1e6, 1e12, 1e308, -1e308];
const COUNTS: [i64; 4] = [0, -1, 1_000_000, 4_000_000_000];

/// A step with one of its figures in turn replaced by others; with what was replaced.
fn variants(step: &Value, schema: &Value) -> Vec<(String, Value)> {
    let mut found = Vec::new();
    let mut visit = |pointer: &str, whole: bool| {
        let figures = FIGURES.map(|x| json!(x));
        let counts = COUNTS.map(|n| json!(n));
        for figure in if whole { counts.to_vec() } else { figures.to_vec() } {
            let mut changed = step.clone();
            let told = format!("{pointer} = {figure}");
            match changed.pointer_mut(pointer) {
                Some(place) => *place = figure,
                None => drop(changed.as_object_mut().unwrap().insert(pointer[1..].to_owned(), figure)),
            }
            found.push((told, changed));
        }
    };
    let mut open = vec![(String::new(), step)];
    while let Some((path, value)) = open.pop() {
        match value {
            Value::Number(n) => visit(&path, !n.is_f64() && is_whole(schema, &path)),
            Value::Array(all) => open.extend(all.iter().enumerate().map(|(n, v)| (format!("{path}/{n}"), v))),
            Value::Object(all) => open.extend(all.iter().map(|(name, v)| (format!("{path}/{name}"), v))),
            _ => {}
        }
    }
    // Figures the step leaves out.
    for (name, property) in schema["properties"].as_object().unwrap() {
        let kinds = &property["type"];
        let is = |kind: &str| kinds == kind || kinds.as_array().is_some_and(|all| all.contains(&json!(kind)));
        if step.get(name).is_none() && (is("number") || is("integer")) {
            visit(&format!("/{name}"), is("integer"));
        }
    }
    found
}

/// Whether a figure at the top of a step is a whole number; deeper ones are tried as they are written.
fn is_whole(schema: &Value, path: &str) -> bool {
    match path[1..].split('/').collect::<Vec<_>>()[..] {
        [name] => schema["properties"][name]["type"].to_string().contains("integer"),
        _ => path.ends_with("/count"),
    }
}

/// What came of a step, and what it took.
struct Taken {
    told: String,
    seconds: f64,
    megabytes: f64,
}

fn tried(step: &Value, meshes: &[Mesh]) -> Option<Taken> {
    let operation = serde_json::from_value::<Operation>(step.clone()).ok()?;
    let seen = examine(&meshes[0], &Progress::unwatched()).unwrap();
    MEMORY.reset_peak_usage();
    let (before, begin) = (MEMORY.current_usage_as_mb(), Instant::now());
    let (progress, (tell, told)) = (Progress::default(), channel());
    let done = std::thread::scope(|scope| {
        let watched = progress.clone();
        scope.spawn(move || {
            if told.recv_timeout(SOON) == Err(RecvTimeoutError::Timeout) {
                watched.cancel();
            }
        });
        let done = operation.apply_to_seen(&meshes[0], &seen, &meshes[1..], &progress);
        let _ = tell.send(());
        done
    });
    let told = match done {
        Ok(outcome) => format!("done: {} triangles", outcome.mesh.triangles().len()),
        Err(TradeError::Cancelled(_)) => "had to be cancelled".into(),
        Err(TradeError::Mesh(fault)) => format!("fault: {fault}"),
        Err(other) => other.to_string(),
    };
    let megabytes = f64::from(MEMORY.peak_usage_as_mb() - before);
    Some(Taken { told, seconds: begin.elapsed().as_secs_f64(), megabytes })
}

fn tool_is_sound(tool: &Tool, schema: &Value) -> Vec<String> {
    let meshes: Vec<Mesh> = tool.parts[0].iter().map(|name| part(name)).collect();
    let plain = tried(&tool.step, &meshes).unwrap();
    let mut wrong = Vec::new();
    for (what, step) in variants(&tool.step, schema) {
        if std::env::var_os("NIMBET_TOLD").is_some() {
            eprintln!("{} {what}", tool.kind());
        }
        let Some(taken) = tried(&step, &meshes) else { continue };
        let slow = taken.told == "had to be cancelled";
        let fault = taken.told.starts_with("fault");
        let late = taken.seconds > plain.seconds + 2.0 * SOON.as_secs_f64();
        let large = taken.megabytes > plain.megabytes + MOST_MB;
        if slow || fault || late || large {
            let Taken { told, seconds, megabytes } = taken;
            let fault = format!("{} {what}: {seconds:.1} s, {megabytes:.0} MB: {told}", tool.step);
            eprintln!("{fault}");
            wrong.push(fault);
        }
    }
    wrong
}

/// More than this the machine has not: what asks for it ends the test instead of the machine.
fn limit_memory() {
    use rustix::process::{Resource, Rlimit, setrlimit};
    let limit = Rlimit { current: Some(8 << 30), maximum: Some(8 << 30) };
    setrlimit(Resource::Data, limit).unwrap();
}

#[test]
fn no_figure_takes_long_or_much() {
    let _alone = alone();
    limit_memory();
    let schema = serde_json::to_value(schemars::schema_for!(Operation)).unwrap();
    let of = |kind: &str| {
        let all = schema["oneOf"].as_array().unwrap();
        all.iter().find(|v| v["properties"]["kind"]["const"] == kind).unwrap()
    };
    let only = std::env::var("NIMBET_KIND").ok();
    let mut wrong = Vec::new();
    for tool in tools().iter().filter(|t| only.as_deref().is_none_or(|kind| t.kind() == kind)) {
        wrong.extend(tool_is_sound(tool, of(tool.kind())));
    }
    assert!(wrong.is_empty(), "{}\n{}", wrong.len(), wrong.join("\n"));
}

/// A part with each triangle cut in four, so many times.
fn divided(mesh: &Mesh, times: usize) -> Mesh {
    let mut mesh = mesh.clone();
    for _ in 0..times {
        let mut faces = Vec::new();
        let mut soup = Vec::new();
        for (t, face) in mesh.face_of().iter().enumerate() {
            let [a, b, c] = mesh.corners(t);
            let [ab, bc, ca] = [a.midpoint(b), b.midpoint(c), c.midpoint(a)];
            soup.extend([a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca]);
            faces.extend([*face; 4]);
        }
        let triangles: Vec<[u32; 3]> = (0..soup.len() as u32 / 3).map(|t| [3 * t, 3 * t + 1, 3 * t + 2]).collect();
        mesh = nimbet_kernel::weld::weld_mesh(&soup, &triangles, faces).unwrap();
    }
    mesh
}

#[test]
fn what_a_step_makes_is_foretold_within_a_factor() {
    let _alone = alone();
    for tool in tools() {
        let operation: Operation = serde_json::from_value(tool.step.clone()).unwrap();
        let done = tool.parts.iter().find_map(|names| {
            let meshes: Vec<Mesh> = names.iter().map(|name| part(name)).collect();
            let outcome = operation.apply(&meshes[0], &meshes[1..], &Progress::unwatched()).ok()?;
            Some((operation.cost(&meshes.iter().map(Extent::of).collect::<Vec<_>>()), outcome))
        });
        let Some((foretold, outcome)) = done else { continue };
        let made: usize = outcome.meshes().map(|m| m.triangles().len()).sum();
        // Parts of a few triangles may come out as anything.
        let (made, about) = (made as f64 + 500.0, foretold.triangles + 500.0);
        assert!(made < about * 4.0 && about < made * 10.0, "{}: {about} foretold, {made} made", tool.step);
        assert!(foretold.bytes > 0.0 && foretold.seconds > 0.0, "{}: {foretold:?}", tool.kind());
    }
}

#[test]
fn what_does_not_fit_is_refused_with_what_would() {
    let _alone = alone();
    let mesh = part("block");
    let extent = [Extent::of(&mesh)];
    let step = |step: Value| serde_json::from_value::<Operation>(step).unwrap();
    let fine = step(json!({ "kind": "shape.body", "body": { "ball": { "diameter": 100 } }, "chord": 1e-6 }));
    let told = refuse_costly(&fine, &extent, None).unwrap_err().to_string();
    assert!(told.contains("the limit is 8 million; a chord of") && told.contains("makes"), "{told}");
    let wrap = step(json!({ "kind": "seal.wrap", "resolution": 0.05 }));
    let told = refuse_costly(&wrap, &extent, Some(1e6)).unwrap_err().to_string();
    assert!(told.contains("of memory; a task may have 0.0 GB"), "{told}");
    assert_eq!(refuse_costly(&step(json!({ "kind": "shape.union", "with": [2] })), &extent, Some(1e9)), Ok(()));
}

/// How long a tool on a part of so many triangles goes on after it was cancelled, at some of its moments; the longest.
fn deaf(tool: &Tool, most: usize) -> Duration {
    let meshes: Vec<Mesh> = tool.parts[0]
        .iter()
        .map(|name| {
            let mesh = part(name);
            let times = (0..5).take_while(|n| mesh.triangles().len() << (2 * n) < most).count();
            divided(&mesh, times)
        })
        .collect();
    let operation: Operation = serde_json::from_value(tool.step.clone()).unwrap();
    let seen = examine(&meshes[0], &Progress::unwatched()).unwrap();
    let run = |progress: &Progress| drop(operation.apply_to_seen(&meshes[0], &seen, &meshes[1..], progress));
    let begin = Instant::now();
    run(&Progress::unwatched());
    let whole = begin.elapsed();
    let mut longest = Duration::ZERO;
    for moment in [0.1, 0.5, 0.8] {
        let (progress, at) = (Progress::default(), Mutex::new(None));
        std::thread::scope(|scope| {
            scope.spawn(|| {
                std::thread::sleep(whole.mul_f64(moment));
                *at.lock().unwrap() = Some(Instant::now());
                progress.cancel();
            });
            run(&progress);
            let after = at.lock().unwrap().map_or(Duration::ZERO, |at| at.elapsed());
            longest = longest.max(after);
        });
    }
    longest
}

#[test]
fn every_tool_hears_that_it_is_cancelled() {
    // Hundredths of seconds as measured; a machine that is busy otherwise is let take longer.
    const SOON: Duration = Duration::from_secs(3);
    let _alone = alone();
    let only = std::env::var("NIMBET_KIND").ok();
    let mut deafest = Vec::new();
    for tool in tools().iter().filter(|t| only.as_deref().is_none_or(|kind| t.kind() == kind)) {
        deafest.push((deaf(tool, 3_000), tool.kind().to_owned()));
    }
    deafest.sort_by(|a, b| b.cmp(a));
    println!("{:?}", &deafest[..deafest.len().min(12)]);
    assert!(deafest[0].0 < SOON, "{:?}", deafest[0]);
}
