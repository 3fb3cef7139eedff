//! A person at the bench with what no remedy of the route would close: corners that nearly meet, a terrain, sheets that hang on.

use crate::Done;
use nimbet_e2e::*;

#[tokio::test]
async fn corners_are_merged_by_their_histogram_and_a_terrain_gets_a_base() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let b = Browser::open(&server.address).await?;
    b.click("station-bring").await?;
    b.give_file("noisy.ply", &ply_of(&noisy_ball(1e-3)?)?).await?;
    b.expect("gauge-state", "open").await?;
    b.click("station-seal").await?;
    b.click("finding-loose-corners").await?;
    b.click("remedy-0").await?;
    b.expect("forecast", "an empty band").await?;
    b.expect("forecast-table", "sealed").await?;
    // A distance beyond the edges is refused with the edge, and the one between is a click away.
    b.fill("within", "9").await?;
    b.expect("problem", "would be lost").await?;
    b.click("suggested").await?;
    b.expect("forecast-table", "sealed").await?;
    b.expect("harm-lost", "none").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;

    // A file of 1.9 across may be in millimetres or in metres: nobody guesses, the person says.
    b.click("station-bring").await?;
    b.give_file("bead.ply", &ply_of(&noisy_ball(0.0)?.map_points(|p| p * 0.019)?)?).await?;
    b.expect("arrival-bead.ply", "1.9 m?").await?;
    b.click("as-metre").await?;
    b.find("part-bead").await?;

    b.click("station-bring").await?;
    b.give_file("hills.ply", &ply_of(&hills()?)?).await?;
    b.click("station-seal").await?;
    b.click("finding-sheet").await?;
    b.click("remedy-0").await?;
    b.expect("forecast-table", "sealed").await?;
    b.expect("harm-invented", "%").await?;
    b.fill("below", "4").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.expect("gauge-lost", "none").await?;
    b.close().await
}

#[tokio::test]
async fn a_loss_is_shown_kept_as_a_part_and_not_released_without_a_yes() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let b = Browser::open(&server.address).await?;
    b.click("station-bring").await?;
    b.give_file("winged.ply", &ply_of(&winged_block()?)?).await?;
    b.expect("gauge-state", "open").await?;
    b.click("station-seal").await?;
    b.take_tool("find_inside").await?;
    b.expect("forecast-table", "sealed").await?;
    b.expect("harm-lost", "%").await?;
    b.tick("keep-lost").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.expect("gauge-lost", "%").await?;
    b.find("part-Lost surface of winged").await?;
    b.click("station-release").await?;
    b.expect("loss", "Find the inside").await?;
    assert!(b.find("release").await?.attr("disabled").await?.is_some());
    b.tick("accept-loss").await?;
    b.click("release").await?;
    b.find("released").await?;
    b.expect("check-sheet", "accepted by the one who released it").await?;
    b.close().await
}
