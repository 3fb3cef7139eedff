//! The modules of the front end that need no browser, tried by themselves; and what is written, read by readers nobody here wrote.

use std::path::Path;
use std::process::Command;

use nimbet_formats::{Body, LengthUnit, ReleaseFormat, write_body, write_together};
use nimbet_kernel::measure::measure;
use nimbet_kernel::shapes::{block, turned};
use nimbet_kernel::{Mesh, Point};
use serde_json::json;

fn passes(script: &str, written: Option<&Path>) {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let mut npm = Command::new("npm");
    npm.args(["run", "--silent", script]).current_dir(web);
    if let Some(at) = written {
        npm.env("WRITTEN", at);
    }
    let run = npm.output().expect("npm runs");
    let told = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    assert!(run.status.success(), "{}{}", told(&run.stdout), told(&run.stderr));
}

#[test]
fn the_modules_of_the_front_end_do_what_their_tests_say() {
    passes("unit", None);
}

/// Every format of triangles, and several parts in one file, by the loaders of the library that draws.
#[test]
fn readers_of_others_open_what_is_written() {
    let at = tempfile::tempdir().expect("a folder");
    let post = turned(&[(3.0, 0.0), (8.0, 0.0), (8.0, 30.0), (3.0, 30.0), (3.0, 0.0)], 24);
    let chock = block(Point::new(20.0, -5.0, 0.0), Point::new(32.5, 5.0, 7.0));
    let moved = chock.clone().map_points(|p| Point::new(40.0 - p.y, p.x, p.z + 3.0)).expect("moved");
    let facts = |mesh: &Mesh| {
        let middle = mesh.points().iter().sum::<Point>() / mesh.points().len() as f64;
        json!({ "triangles": mesh.triangles().len(), "volume": measure(mesh).volume, "middle": middle.to_array() })
    };
    for format in ReleaseFormat::TRIANGLES {
        let body = Body { name: "Lamp post", colour: [168, 118, 31], mesh: &post };
        let bytes = write_body(&body, format, LengthUnit::Millimetre).expect("written");
        std::fs::write(at.path().join(format!("post.{}", format.extension())), bytes).expect("kept");
    }
    let parts = [("Chock", [200, 40, 40], &chock), ("Post", [168, 118, 31], &post), ("Chock", [200, 40, 40], &moved)];
    let bodies = parts.map(|(name, colour, mesh)| Body { name, colour, mesh });
    let (set, copies) = write_together("Mooring set", &bodies, LengthUnit::Inch).expect("written");
    assert_eq!(copies, [None, None, Some(0)], "the third is the first, turned and moved");
    std::fs::write(at.path().join("set.3mf"), set).expect("kept");
    let known = json!({ "post": facts(&post), "set": parts.map(|(name, _, mesh)| json!([name, facts(mesh)])) });
    std::fs::write(at.path().join("known.json"), known.to_string()).expect("kept");
    passes("readers", Some(at.path()));
}
