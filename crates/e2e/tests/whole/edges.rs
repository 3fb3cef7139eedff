//! A person rounding edges: a block all round its top, too far at first; a saw cut; a rounding taken off and put back with another radius.

use nimbet_e2e::*;
use serde_json::json;

use crate::Done;
use crate::bodies::figures;
use crate::drawing::empty_bench;

async fn volume(client: &Client, name: &str) -> anyhow::Result<f64> {
    Ok(figures(client, name).await?["volume"].as_f64().unwrap_or(0.0))
}

/// What a quarter round takes of each mm.
fn quarter(radius: f64) -> f64 {
    (1.0 - std::f64::consts::PI / 4.0) * radius * radius
}

#[tokio::test]
async fn edges_are_rounded_cut_off_and_made_sharp_again() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    let block =
        json!({ "kind": "shape.body", "body": { "block": { "size": [40, 40, 40] } }, "at": [0, 0, 0], "chord": 0.05 });
    let made = client.ask("steps", json!({ "part": 0, "action": block })).await?;
    assert_eq!(made["state"], "done", "{made}");
    b.choose_part("Block").await?;
    b.click("station-shape").await?;
    b.click("tools-round").await?;
    b.click("on-faces").await?;
    b.click("view-top").await?;
    b.click_in("viewport", 0, 0).await?;
    b.fill("radius", "30").await?;
    b.expect("problem", "the largest radius that works there is 20 mm").await?;
    b.fill("radius", "10").await?;
    b.expect("forecast", "4 edges rounded").await?;
    b.expect("forecast", "a radius of up to about 20 mm").await?;
    b.click("apply").await?;
    b.expect("applied", "4 edges rounded").await?;
    let rounded = volume(&client, "Block").await?;
    let lost = 64000.0 - rounded;
    assert!(lost > quarter(10.0) * 110.0 && lost < quarter(10.0) * 160.0, "{lost}");
    // The edges of the foot, cut off flat.
    b.click("view-bottom").await?;
    b.click("tools-chamfer").await?;
    b.click("on-faces").await?;
    b.click_in("viewport", 0, 0).await?;
    b.fill("width", "2").await?;
    b.expect("forecast", "4 edges chamfered").await?;
    b.click("apply").await?;
    b.expect("applied", "4 edges chamfered").await?;
    assert!((rounded - volume(&client, "Block").await? - (320.0 - 4.0 * 8.0 / 3.0)).abs() < 0.1);
    b.close().await
}

#[tokio::test]
async fn a_rounding_is_taken_off_and_comes_again_smaller() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    let block =
        json!({ "kind": "shape.body", "body": { "block": { "size": [40, 40, 40] } }, "at": [0, 0, 0], "chord": 0.05 });
    client.ask("steps", json!({ "part": 0, "action": block })).await?;
    let part = client.show().await?["parts"][0].clone();
    let (id, least, size) = (part["id"].clone(), part["figures"]["least"].clone(), 40.0);
    let at = |k: usize, by: f64| least[k].as_f64().unwrap_or(0.0) + by;
    let edge = [at(0, size), at(1, size / 2.0), at(2, size)];
    let round = json!({ "kind": "shape.round", "on": { "edges": [edge] }, "radius": 12, "chord": 0.02 });
    let made = client.ask("steps", json!({ "part": id, "action": round })).await?;
    assert_eq!(made["state"], "done", "{made}");
    b.choose_part("Block").await?;
    b.click("station-shape").await?;
    b.click("view-right").await?;
    b.click("tools-take_off").await?;
    // Seen from the right, the rounding is the upper part of what is seen.
    b.click_in("viewport", 0, -220).await?;
    b.expect("forecast", "1 face taken off").await?;
    b.fill("again", "4").await?;
    b.expect("forecast", "1 edge rounded").await?;
    b.click("apply").await?;
    b.expect("applied", "1 edge rounded").await?;
    let lost = 64000.0 - volume(&client, "Block").await?;
    assert!((lost / (quarter(4.0) * 40.0) - 1.0).abs() < 0.05, "{lost}");
    b.close().await
}

#[tokio::test]
async fn a_dish_gets_a_wall_and_a_soft_lip_and_a_sawn_grip_soft_ends() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Fog bell").await?;
    b.click("station-wall").await?;
    b.click("tools-thicken").await?;
    b.expect("forecast", "a wall of 3 mm").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("station-shape").await?;
    b.click("tools-round").await?;
    b.click("on-sharp").await?;
    b.fill("radius", "0.5").await?;
    b.expect("forecast", "2 runs of edges rounded").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "2 runs of edges rounded").await?;
    b.choose_part("Tiller core").await?;
    b.click("tools-saw").await?;
    b.expect("forecast", "cut into").await?;
    b.click("apply").await?;
    b.find("part-Upper half of Tiller core").await?;
    b.click("tools-round").await?;
    b.click("on-sharp").await?;
    b.fill("radius", "1").await?;
    b.expect("forecast", "2 runs of edges rounded").await?;
    // Too large for the core it is refused with what would do.
    b.fill("radius", "80").await?;
    b.expect("problem", "the largest radius that works there is").await?;
    b.fill("radius", "1").await?;
    b.expect("forecast", "2 runs of edges rounded").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.close().await
}

#[tokio::test]
async fn a_top_becomes_half_a_round_and_a_shell_keeps_its_roundings() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    let block =
        json!({ "kind": "shape.body", "body": { "block": { "size": [60, 40, 50] } }, "at": [0, 0, 0], "chord": 0.05 });
    client.ask("steps", json!({ "part": 0, "action": block })).await?;
    b.choose_part("Block").await?;
    b.click("station-shape").await?;
    b.click("view-top").await?;
    b.click("tools-round").await?;
    b.click("on-faces").await?;
    b.click_in("viewport", 0, 0).await?;
    // What each edge could have is told before anything is typed, and one of them gets its own.
    b.expect("most-together", "fits all of them").await?;
    b.expect("run-0", "mm long").await?;
    b.fill("radius", "3").await?;
    b.fill("run-own-0", "6").await?;
    b.expect("forecast", "4 edges rounded").await?;
    b.expect("forecast-table", "sealed").await?;
    b.fill("run-own-0", "").await?;
    // Or several along it: from 3 at one end to 6 at the other, and 5 halfway.
    b.click("run-along-0").await?;
    b.fill("along-radius-0-1", "6").await?;
    b.click("along-more-0").await?;
    b.fill("along-radius-0-1", "5").await?;
    b.expect("forecast", "4 edges rounded").await?;
    b.expect("forecast-table", "sealed").await?;
    b.fill("along-at-0-1", "150").await?;
    b.expect("along-0", "At most 100 %").await?;
    b.click("along-none-0").await?;
    // All of the face instead: 40 wide, so half a round of 20.
    b.tick("whole").await?;
    b.expect("forecast", "1 face vanishes under a rounding of 20 mm").await?;
    b.click("apply").await?;
    b.expect("applied", "1 face vanishes").await?;
    let left = volume(&client, "Block").await?;
    let exact = 60.0 * (40.0 * 30.0 + std::f64::consts::PI * 200.0);
    assert!((left / exact - 1.0).abs() < 1e-3, "{left} {exact}");

    // Another one with its upright edges rounded: a wall thicker than they are would lose them.
    let box_of = json!({ "kind": "shape.body", "body": { "block": { "size": [60, 40, 50], "rounded": 2 } }, "at": [0, 0, 0], "chord": 0.05 });
    client.ask("steps", json!({ "part": 0, "action": box_of })).await?;
    b.reload().await?;
    b.choose_part("Block 2").await?;
    b.click("station-wall").await?;
    b.click("view-top").await?;
    b.click("tools-shell").await?;
    b.click_in("viewport", 100, 80).await?;
    b.fill("wall", "4").await?;
    b.expect("instead", "Take 4 roundings off first, make the wall, round again by 2 mm").await?;
    b.click("instead-do").await?;
    b.expect("applied", "4 edges rounded").await?;
    let left = volume(&client, "Block 2").await?;
    let exact = (60.0 * 40.0 - 4.0 * quarter(2.0)) * 50.0 - 52.0 * 32.0 * 46.0;
    assert!((left / exact - 1.0).abs() < 2e-3, "{left} {exact}");
    b.close().await
}

#[tokio::test]
async fn the_outline_of_a_badge_and_the_corners_of_its_letters_are_rounded() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    b.click("example-pennant-badge").await?;
    b.choose_part("Relief").await?;
    let drawn = volume(&client, "Relief").await?;
    b.click("station-shape").await?;
    b.click("tools-round").await?;
    // All inner corners, those at the foot of its letters and between their strokes: they bend more tightly than that.
    b.click("on-sharp").await?;
    b.click("sense-inner").await?;
    b.fill("radius", "0.1").await?;
    b.expect("forecast", "runs of edges rounded").await?;
    b.expect("forecast", "bends are tighter than that").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "runs of edges rounded").await?;
    let filled = volume(&client, "Relief").await?;
    assert!(filled > drawn, "{filled} {drawn}");
    // The outline above and below: all edges of its side.
    b.click("view-front").await?;
    b.click("tools-round").await?;
    b.click("on-faces").await?;
    b.click_in("viewport", 0, 0).await?;
    b.fill("radius", "0.3").await?;
    b.expect("forecast", "2 runs of edges rounded").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "2 runs of edges rounded").await?;
    // 64 x 44 with corners of 9 mm.
    let round = 2.0 * (64.0 + 44.0) - (8.0 - 2.0 * std::f64::consts::PI) * 9.0;
    let lost = filled - volume(&client, "Relief").await?;
    // A quarter round of few pieces takes a little more.
    assert!((lost / (2.0 * round * quarter(0.3)) - 1.0).abs() < 0.1, "{lost}");
    b.close().await
}
