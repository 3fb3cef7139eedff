//! A person at the bench with picks in the viewport: a rim split and bridged, a place re-skinned, a plan with a step struck out.

use crate::Done;
use nimbet_e2e::*;

/// Where the ends of the bailer's high half are in the viewport, from its middle, seen from home.
const ENDS: [(i64, i64); 2] = [(-212, -231), (243, -123)];

#[tokio::test]
async fn a_rim_is_split_at_its_corners_and_its_runs_covered_or_bridged() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Bailer").await?;
    b.expect("gauge-state", "open: 1 rim, 342 mm").await?;
    b.click("view-home").await?;
    b.take_tool("cover_runs").await?;
    b.expect("picks", "two or more points").await?;
    for (n, (x, y)) in ENDS.into_iter().enumerate() {
        b.click_in("viewport", x, y).await?;
        b.expect("picks", &format!("{} point", n + 1)).await?;
    }
    b.expect("forecast-table", "sealed").await?;
    // One run alone, flat: the high half is flat, the other is not.
    b.click("run-R1a").await?;
    b.click("style-flat").await?;
    let told = b.expect_one_of("forecast", &["covered 1 run", "is not flat"]).await?;
    if told.contains("is not flat") {
        b.click("run-R1a").await?;
        b.click("run-R1b").await?;
        b.expect("forecast", "covered 1 run").await?;
    }
    // What stays as it is is folded away.
    b.click("rows-same").await?;
    b.expect("forecast-table", "Rims 1 1").await?;
    b.click("apply").await?;
    // Taken back at once: it waits for what is being applied.
    b.click("undo").await?;
    b.wait_for("[data-testid=\"redo\"]:not([disabled])").await?;
    b.expect("gauge-state", "open: 1 rim, 342 mm").await?;
    // The same runs joined by a band.
    b.take_tool("bridge_runs").await?;
    for (n, (x, y)) in ENDS.into_iter().enumerate() {
        b.click_in("viewport", x, y).await?;
        b.expect("picks", &format!("{} point", n + 1)).await?;
    }
    b.click("run-R1a").await?;
    b.expect("picks", "Choose the two runs").await?;
    b.click("run-R1b").await?;
    b.expect("forecast", "joined a run of R1 and a run of R1").await?;
    b.expect("forecast-table", "Naked edges 122 ✓ 0").await?;
    b.close().await
}

#[tokio::test]
async fn a_place_painted_over_is_re_skinned_and_the_deviation_shown() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Tiller grip").await?;
    b.click("view-home").await?;
    // A plan first, its covers struck out: the specks go, the rims stay.
    b.click("tool-plan").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("plan-cover_taut").await?;
    b.expect("forecast", "struck out").await?;
    b.click("plan-find_inside").await?;
    b.expect("forecast-table", "Rims 8 ✓ 7").await?;
    b.click("plan-find_inside").await?;
    b.click("plan-cover_taut").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.take_tool("re_skin").await?;
    b.expect("picks", "Paint over the part").await?;
    b.drag_in("viewport", (-20, -20), (10, 20)).await?;
    b.expect("forecast", "covered 1 opening").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "Re-skin").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("lens-deviation").await?;
    b.expect("deviation-scale", "as it came in").await?;
    // A face clicked tells what it is.
    b.click_in("viewport", 0, 0).await?;
    b.expect("face", "mm²").await?;
    b.close().await
}
