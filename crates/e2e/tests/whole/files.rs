//! Files of several bodies and of exact surfaces: chosen, mended, released, read anew.

use anyhow::Context;
use nimbet_e2e::*;
use nimbet_trade::PartState;
use serde_json::{Value, json};

use crate::Done;
use crate::drawing::empty_bench;

/// A lantern of eight parts in inches; its housing has no front.
fn lantern() -> anyhow::Result<Vec<u8>> {
    let path = format!("{}/../brep/tests/parts/mast-lantern.step", env!("CARGO_MANIFEST_DIR"));
    std::fs::read(&path).context(path)
}

#[tokio::test]
async fn three_of_the_eight_bodies_of_an_assembly_come_in_and_one_is_sealed_shelled_and_released() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.click("station-bring").await?;
    b.give_file("Mast lantern.step", &lantern()?).await?;
    b.expect("body-choice", "It holds 8 bodies.").await?;
    b.expect("body-6", "Housing without front").await?;
    // None, then three.
    b.click("body-all").await?;
    for body in ["body-0", "body-6", "body-7"] {
        b.click(body).await?;
    }
    b.expect("bodies-in", "Bring in 3 parts").await?;
    b.click("bodies-in").await?;
    b.choose_part("Knob").await?;
    b.expect("gauge-size", "15.22").await?;
    b.choose_part("Housing without front").await?;
    b.expect("gauge-state", "open: 1 rim").await?;
    b.click("station-seal").await?;
    b.click("finding-rim-R1").await?;
    b.click("remedy-0").await?;
    b.click("style-flat").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-volume", "16\u{2009}387").await?;
    b.click("station-wall").await?;
    b.click("tools-hollow").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "Hollow").await?;
    b.click("station-release").await?;
    for (format, ending, kinds) in [("3MF", "3mf", "same triangles"), ("STEP", "step", "12 planes")] {
        b.choose("format", format).await?;
        b.click("release").await?;
        b.expect("check-sheet", kinds).await?;
        let (name, bytes) = b.download("download").await?;
        assert_eq!(name, format!("housing-without-front.{ending}"));
        let seen = read_back(&bytes, &name)?;
        assert_eq!(seen.figures.state, PartState::Sealed, "{name}");
        let (inner, outer) = (19.4f64.powi(3), 25.4f64.powi(3));
        let volume = seen.figures.volume.unwrap_or_default();
        assert!((volume - (outer - inner)).abs() < 1.0, "{name}: {volume} mm³");
    }
    // The exact knob followed more closely: its part stays, its figures change.
    b.choose_part("Knob").await?;
    b.click("ledger-tab").await?;
    b.click("own-steps").await?;
    b.click("step-17").await?;

    b.click("read-17").await?;
    b.fill("anew-chord", "0").await?;
    b.expect("step-17", "a length from").await?;
    b.fill("anew-chord", "0.001").await?;
    b.click("read-anew").await?;
    b.expect("gauge-size", "15.24").await?;
    b.choose_part("Housing without front").await?;
    b.expect("gauge-state", "sealed").await?;
    b.close().await
}

#[tokio::test]
async fn what_a_file_paints_is_a_face_of_its_own_until_it_is_read_without() -> Done {
    // A block of two halves; the right half of its top is painted.
    let mut text = String::new();
    for [x, y] in [[0, 0], [10, 0], [20, 0], [20, 20], [10, 20], [0, 20]] {
        text += &format!("v {x} {y} 0\nv {x} {y} 10\n");
    }
    for [a, b] in (0..6).map(|n| [2 * n + 1, 2 * ((n + 1) % 6) + 1]) {
        text += &format!("f {a} {b} {} {}\n", b + 1, a + 1);
    }
    text += "f 11 9 7 5 3 1\nf 2 4 10 12\nusemtl lead\nf 4 6 8 10\n";
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, _) = empty_bench(&server).await?;
    b.click("station-bring").await?;
    b.give_file("Ballast block.obj", text.as_bytes()).await?;
    b.expect("arrival-Ballast block.obj", "faces end where its colours or groups do").await?;
    // Open at the painted half only: 18 · 18 · 8 mm³ are hollow, and 9 · 18 · 1 of the lid.
    b.click("station-wall").await?;
    b.click("view-top").await?;
    b.click("tools-shell").await?;
    b.click_in("viewport", 100, 80).await?;
    b.fill("wall", "1").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-volume", "1\u{2009}246").await?;
    b.click("ledger-tab").await?;
    b.click("step-1").await?;
    b.click("read-1").await?;
    b.tick("anew-groups").await?;
    b.click("read-anew").await?;
    b.expect("step-1", "its colours or groups were left out").await?;
    // The half that was picked is no face now.
    b.expect("step-2", "needs a new pick").await?;
    b.expect("gauge-volume", "4\u{2009}000").await?;
    b.close().await
}

#[tokio::test]
async fn bodies_are_asked_for_listed_and_picked_by_the_api() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let send = |fields: Vec<(&'static str, String)>| {
        let client = &client;
        async move {
            let fields = [fields, vec![("unit", "auto".to_owned())]].concat();
            let (status, task) = client.upload_with("lantern.step", lantern()?, &fields).await?;
            if status == 202 { client.end_of(&task).await } else { Ok(task) }
        }
    };
    let asked = send(vec![("bodies", "ask".into())]).await?;
    let problem = &asked["problem"];
    assert_eq!(problem["type"], "urn:nimbet:several-bodies");
    let names: Vec<&str> =
        problem["bodies"].as_array().into_iter().flatten().filter_map(|b| b["name"].as_str()).collect();
    assert_eq!(names.iter().filter(|n| **n == "Lamp post").count(), 4);
    let picked = json!([{ "body": 7, "name": "Lamp knob" }, { "body": 5 }]).to_string();
    let done = send(vec![("bodies", picked), ("chord", "0.005".into())]).await?;
    assert_eq!(done["state"], "done", "{done}");
    let parts = client.show().await?;
    let told: Vec<&Value> = parts["parts"].as_array().into_iter().flatten().collect();
    let names: Vec<_> = told.iter().map(|p| p["name"].as_str().unwrap_or_default()).collect();
    assert_eq!(names, ["Lamp knob", "Lid plate"]);
    assert_eq!(told[1]["colour"], "#b3b3b3");
    for (field, text, wanted) in [
        ("bodies", "[{\"body\":8}]", "no body 8"),
        ("bodies", "some", "bodies"),
        ("bodies", "[]", "no body was chosen"),
        ("chord", "-1", "chord"),
        ("chord", "1e-12", "chord"),
        ("chord", "two", "no number"),
    ] {
        let refused = send(vec![(field, text.into())]).await?;
        assert!(refused.to_string().to_lowercase().contains(wanted), "{field} {text}: {refused}");
    }
    Ok(())
}

#[tokio::test]
async fn lamp_posts_leave_in_one_file_where_they_stand_once() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let (_, task) = client.upload_with("lantern.step", lantern()?, &[("bodies", "each".to_owned())]).await?;
    client.end_of(&task).await?;
    let parts = client.show().await?["parts"].clone();
    let named = |wanted: &str| -> Vec<Value> {
        let all = parts.as_array().into_iter().flatten();
        all.filter(|p| p["name"].as_str().is_some_and(|n| n.starts_with(wanted))).map(|p| p["id"].clone()).collect()
    };
    let (posts, housing) = (named("Lamp post"), named("Housing"));
    assert_eq!((posts.len(), housing.len()), (4, 1));
    let wanted =
        |with: &[Value], format: &str| json!({ "part": posts[0], "with": with, "format": format, "unit": "inch" });
    let task = client.ask("releases", wanted(&posts[1..], "3mf")).await?;
    assert_eq!(task["state"], "done", "{task}");
    let sheet = client.get(&format!("/jobs/{}/releases", client.job)).await?[0]["sheet"].clone();
    assert_eq!(sheet["checks"][0]["evidence"], "4 parts, 1 object and 3 copies of one");
    assert_eq!(sheet["parts"].as_array().map(Vec::len), Some(4));
    let id = task["result"]["release"].as_str().context("no release")?;
    let again = read_back(&client.bytes(&format!("/releases/{id}/file")).await?, "posts.3mf")?;
    assert_eq!((again.figures.state, again.figures.shells), (PartState::Sealed, 4));
    // One that is open keeps all of them back, and is named.
    let open = client.ask("releases", wanted(&housing, "3mf")).await?;
    assert_eq!(open["problem"]["type"], "urn:nimbet:not-proved");
    assert!(open["problem"]["detail"].as_str().is_some_and(|d| d.contains("Housing")), "{open}");
    for refused in [wanted(&posts[1..], "stl"), wanted(&posts[..1], "3mf"), wanted(&[json!(4_000_000)], "3mf")] {
        assert!(client.ask("releases", refused).await.is_err());
    }
    Ok(())
}

/// A cubic's length, by 4,096 of its chords.
fn length(poles: [[f64; 3]; 4]) -> f64 {
    let at = |t: f64| -> Vec<f64> {
        let weights = [(1.0 - t).powi(3), 3.0 * t * (1.0 - t).powi(2), 3.0 * t * t * (1.0 - t), t.powi(3)];
        (0..3).map(|axis| weights.iter().zip(&poles).map(|(w, p)| w * p[axis]).sum()).collect()
    };
    let places: Vec<_> = (0..=4096).map(|k| at(f64::from(k) / 4096.0)).collect();
    let way = |p: &[Vec<f64>]| p[0].iter().zip(&p[1]).map(|(a, b)| (a - b).powi(2)).sum::<f64>().sqrt();
    places.windows(2).map(way).sum()
}

#[tokio::test]
async fn lines_of_a_step_file_come_in_as_a_path_and_a_rod_runs_along_them() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    let path = format!("{}/../brep/tests/parts/wires.step", env!("CARGO_MANIFEST_DIR"));
    b.give_file("Rail run.step", &std::fs::read(&path).context(path)?).await?;
    b.expect("body-choice", "It holds 2 bodies.").await?;
    b.expect("body-1", "Rail run: Rail").await?;
    b.click("bodies-in").await?;
    b.choose_part("Rail run: Rail").await?;
    b.click("station-shape").await?;
    b.expect("shape-wire", "is a wire").await?;
    b.click("tools-tube").await?;
    b.fill("diameter", "6").await?;
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    // A straight run, a quarter of a circle and a cubic, that meet end to end and straight on.
    let bend = length([[20.0, 0.0, 120.0], [50.0, 0.0, 120.0], [80.0, 30.0, 120.0], [90.0, 60.0, 150.0]]);
    let exact = std::f64::consts::PI * 9.0 * (100.0 + 10.0 * std::f64::consts::PI + bend);
    let parts = client.show().await?["parts"].clone();
    let rod = parts.as_array().into_iter().flatten().find(|p| p["figures"]["state"] == "sealed").cloned();
    let volume = rod.and_then(|p| p["figures"]["volume"].as_f64()).unwrap_or(0.0);
    assert!((volume / exact - 1.0).abs() < 1.5e-2, "{volume} mm³ of {exact}");
    b.close().await
}
