//! A person making bodies of profiles: a vessel lofted and filled, a grip between two rails, sections turned and made larger by hand,
//! half a shell patched from its edges, a sheet trimmed by sight.

use std::f64::consts::PI;

use nimbet_e2e::*;
use reqwest::Method;
use serde_json::{Value, json};

use crate::Done;
use crate::drawing::empty_bench;

/// Puts a profile of one line on the bench.
async fn draw(client: &Client, called: &str, [at, normal, right]: [[f64; 3]; 3], line: Value) -> Done {
    let plane = json!({ "at": at, "normal": normal });
    let lines = json!([{ "name": "a", "draw": line }]);
    let action = json!({ "kind": "shape.profile", "called": called, "plane": plane, "right": right, "lines": lines });
    let task = client.ask("steps", json!({ "part": 0, "action": action })).await?;
    assert_eq!(task["state"], "done", "{task}");
    Ok(())
}

/// The figures of a part, by its name.
pub async fn figures(client: &Client, name: &str) -> anyhow::Result<Value> {
    let parts = client.show().await?["parts"].clone();
    let part = parts.as_array().into_iter().flatten().find(|p| p["name"] == name).cloned();
    Ok(part.unwrap_or_default()["figures"].clone())
}

const GROUND: [[f64; 3]; 3] = [[0.0; 3], [0.0, 0.0, 1.0], [1.0, 0.0, 0.0]];
/// Upright in the middle: x of the drawing is y, its y is z.
const MIDDLE: [[f64; 3]; 3] = [[0.0; 3], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0]];

#[tokio::test]
async fn a_vessel_that_was_lofted_is_filled_to_a_level() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    // A recipe that begins with nothing makes it, as steps that can be changed.
    b.click("example-lofted-scoop").await?;
    b.expect("gauge-state", "sealed").await?;
    let volume =
        || async { Ok::<_, anyhow::Error>(figures(&client, "Filling of Lofted body").await?["volume"].as_f64()) };
    let brimful = volume().await?.unwrap_or(0.0);
    b.click("ledger-tab").await?;
    b.click("step-11").await?;
    b.click("reopen-11").await?;
    b.click("fill-to-depth").await?;
    b.fill("fill-depth", "20").await?;
    b.expect("forecast", "20 mm deep").await?;
    b.click("apply").await?;
    b.expect("applied", "20 mm").await?;
    let low = volume().await?.unwrap_or(0.0);
    assert!(low > brimful * 0.3 && low < brimful * 0.7, "{low} of {brimful}");
    b.close().await
}

#[tokio::test]
async fn sections_are_turned_and_made_larger_by_their_handles() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    // So long that the handles at its end have room in the picture.
    draw(&client, "Way", GROUND, json!({ "line": { "from": [0, 0], "to": [60, 0] } })).await?;
    draw(&client, "Bar", MIDDLE, json!({ "frame": { "centre": [0, 0], "size": [20, 10] } })).await?;
    b.choose_part("Bar").await?;
    b.click("station-shape").await?;
    b.click("tools-sweep").await?;
    assert!(b.is_absent("twist-handle").await?, "there is no path yet");
    b.choose("path", "Way").await?;
    b.escape_lists().await?;
    b.expect("twist-handle", "0°").await?;
    b.expect("made", "sealed").await?;
    // Up is the way both of them go: larger, and turned by the right hand.
    b.drag_in("scale-handle", (0, 0), (0, -60)).await?;
    b.drag_in("twist-handle", (0, 0), (0, -60)).await?;
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "moved along 60 mm").await?;
    let steps = client.show().await?["steps"].clone();
    let done = steps.as_array().and_then(|s| s.last()).cloned().unwrap_or_default()["action"].clone();
    let (twist, scale) = (done["twist"].as_f64().unwrap_or(0.0), done["scale"].as_f64().unwrap_or(0.0));
    assert!(twist > 5.0 && twist < 180.0 && scale > 1.1 && scale < 20.0, "{done}");
    let told = figures(&client, "Swept body").await?["volume"].as_f64().unwrap_or(0.0);
    let frustum = 60.0 * 200.0 * (1.0 + scale + scale * scale) / 3.0;
    assert!((told / frustum - 1.0).abs() < 0.01, "{told} {frustum}");
    b.close().await
}

#[tokio::test]
async fn a_grip_is_swept_between_two_rails() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    // Two straight rails that come together, so that what lies between is a frustum, its ends apart by a length.
    draw(&client, "Left rail", GROUND, json!({ "line": { "from": [-10, 0], "to": [-5, 60] } })).await?;
    draw(&client, "Right rail", GROUND, json!({ "line": { "from": [10, 0], "to": [5, 60] } })).await?;
    draw(&client, "Section", GROUND, json!({ "circle": { "centre": [0, 0], "diameter": 20 } })).await?;
    b.choose_part("Section").await?;
    b.click("station-shape").await?;
    b.click("tools-sweep").await?;
    b.choose("path", "Left rail").await?;
    b.escape_lists().await?;
    b.click("held-second_path").await?;
    b.choose("held", "Right rail").await?;
    b.escape_lists().await?;
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    let told = figures(&client, "Swept body").await?["volume"].as_f64().unwrap_or(0.0);
    let exact = PI * 60.0 / 3.0 * (100.0 + 50.0 + 25.0);
    assert!((told / exact - 1.0).abs() < 0.01, "{told} {exact}");
    b.close().await
}

#[tokio::test]
async fn half_a_shell_is_patched_from_four_edges_mirrored_and_sealed() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    let sheer = [[0.0, 0.0, 12.0], GROUND[1], GROUND[2]];
    draw(&client, "Keel", MIDDLE, json!({ "arc": { "from": [-40, -10], "via": [0, -14], "to": [40, -10] } })).await?;
    draw(&client, "Stem", MIDDLE, json!({ "line": { "from": [40, -10], "to": [48, 12] } })).await?;
    draw(&client, "Sheer", sheer, json!({ "arc": { "from": [0, 48], "via": [22, 0], "to": [0, -48] } })).await?;
    draw(&client, "Stern", MIDDLE, json!({ "line": { "from": [-48, 12], "to": [-40, -10] } })).await?;
    b.choose_part("Keel").await?;
    b.click("station-shape").await?;
    b.click("tools-patch").await?;
    for side in ["Stem", "Sheer", "Stern"] {
        b.choose("profiles", side).await?;
        b.escape_lists().await?;
    }
    b.expect("made", "open").await?;
    b.click("apply").await?;
    b.choose_part("Patch").await?;
    b.click("tools-mirror").await?;
    b.expect("forecast", "mirrored across the plane x = 0 mm and joined").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "open: 1 rim").await?;
    b.click("station-seal").await?;
    b.click("finding-rim-R1").await?;
    b.click("remedy-0").await?;
    b.click("style-flat").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    let size = figures(&client, "Patch").await?["size"].clone();
    let near = |k: usize, wanted: f64| (size[k].as_f64().unwrap_or(0.0) - wanted).abs() < 0.05;
    assert!(near(0, 44.0) && near(1, 96.0) && near(2, 26.0), "{size}");
    b.close().await
}

#[tokio::test]
async fn a_sheet_is_trimmed_by_a_profile_and_a_click() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    draw(&client, "Outline", GROUND, json!({ "frame": { "centre": [0, 0], "size": [60, 40] } })).await?;
    draw(&client, "Window", GROUND, json!({ "circle": { "centre": [0, 0], "diameter": 20 } })).await?;
    client.ask("steps", json!({ "part": 2, "action": { "kind": "shape.patch", "chord": 0.01 } })).await?;
    b.choose_part("Patch").await?;
    b.click("station-shape").await?;
    b.click("tools-trim_sheet").await?;
    b.click("by-profile").await?;
    b.expect("lacks", "Choose the other part").await?;
    b.choose("by", "Window").await?;
    b.expect("forecast", "cut into 2 pieces").await?;
    // What stays is clicked: beside the middle, which is the window.
    b.click("view-top").await?;
    b.click("keep-picked").await?;
    b.click_in("viewport", 150, 0).await?;
    b.expect("forecast", "1 of 2 pieces stays").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "open: 2 rims").await?;
    let told = figures(&client, "Patch").await?["area"].as_f64().unwrap_or(0.0);
    let exact = 2400.0 - PI * 100.0;
    assert!((told / exact - 1.0).abs() < 1e-3, "{told} {exact}");
    b.close().await
}

#[tokio::test]
async fn what_a_step_leads_through_is_told_of_the_parts_it_names() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    draw(&client, "Bar", MIDDLE, json!({ "frame": { "centre": [0, 0], "size": [20, 10] } })).await?;
    draw(&client, "Way", GROUND, json!({ "line": { "from": [0, 0], "to": [60, 0] } })).await?;
    let parts = client.show().await?["parts"].clone();
    let (bar, way) = (parts[0]["mesh"].clone(), parts[1]["mesh"].clone());
    let number = parts[1]["id"].as_u64().unwrap();
    let sweep = json!({ "kind": "shape.sweep", "path": { "profiles": { "parts": [number] } }, "twist": 90 });
    let ask = async |action: &Value, mesh: &Value, parts: Value| {
        let body = json!({ "action": action, "mesh": mesh, "parts": parts });
        client.send(Method::POST, "/courses", Some(body)).await
    };
    let (status, told) = ask(&sweep, &bar, json!({ number.to_string(): way })).await?;
    assert_eq!(status, 200, "{told}");
    assert_eq!(told["course"]["end"]["at"], json!([60.0, 0.0, 0.0]));
    assert!(told["course"]["sections"].as_array().is_some_and(|all| all.len() > 2), "{told}");
    // Parts that are not given, meshes nobody has, steps that lead nowhere, and what is no step at all.
    let nowhere = json!({ "kind": "seal.turn_outward" });
    let strange = "0".repeat(64);
    let known = || json!({ number.to_string(): way });
    for (action, mesh, parts, kind) in [
        (&sweep, &bar, json!({}), "bad-step"),
        (&sweep, &bar, json!({ number.to_string(): strange }), "not-found"),
        (&sweep, &json!("mesh"), known(), "bad-request"),
        (&nowhere, &bar, known(), "refused"),
        (&json!({ "kind": "shape.sweep" }), &bar, known(), "bad-body"),
    ] {
        let (status, told) = ask(action, mesh, parts).await?;
        assert!((400..500).contains(&status), "{status} {told}");
        assert_eq!(told["type"], format!("urn:nimbet:{kind}"), "{told}");
    }
    Ok(())
}
