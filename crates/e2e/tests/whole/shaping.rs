//! A person at the station Shape: a half mirrored and joined, sawn with pegs, a body added and taken away, boxes and a
//! bend untangled, the chambers of a vessel picked, a cut along a drawn line.

use crate::Done;
use nimbet_e2e::*;

#[tokio::test]
async fn a_half_is_mirrored_and_joined_and_sawn_with_pegs() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Half fairlead").await?;
    b.click("station-shape").await?;
    b.expect("shape-summary", "open: 1 rim").await?;
    // A saw needs a solid, and says so.
    b.click("tools-saw").await?;
    b.expect("problem", "The part is open").await?;
    b.click("cancel").await?;
    b.click("tools-mirror").await?;
    b.expect("forecast", "mirrored across the plane x = 0").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("tools-saw").await?;
    b.expect("forecast", "cut into").await?;
    // The box stands at the left end of its row.
    b.click_in("pegs", -125, 0).await?;
    b.expect("forecast", "2 pegs of 4").await?;
    b.click("apply").await?;
    b.expect("applied", "sockets with 0.2").await?;
    b.expect("gauge-state", "sealed").await?;
    b.find("part-Upper half of Half fairlead").await?;
    b.click("undo").await?;
    b.expect("ledger-tab", "Ledger 17").await?;
    b.close().await
}

#[tokio::test]
async fn boxes_are_untangled_and_a_drum_is_taken_away() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Coaming").await?;
    b.expect("gauge-state", "tangled").await?;
    b.click("station-shape").await?;
    b.click("tools-untangle").await?;
    b.expect("forecast", "1 shell of 9").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("tools-drum").await?;
    b.expect("forecast", "added a drum").await?;
    b.click("apply").await?;
    b.find("part-Drum").await?;
    b.click("tools-difference").await?;
    b.choose("with", "Drum").await?;
    b.expect("forecast", "do not meet").await?;
    b.close().await
}

#[tokio::test]
async fn the_chambers_of_a_vessel_are_pointed_to_and_picked() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Bailer").await?;
    b.click("station-shape").await?;
    b.click("tools-chambers").await?;
    b.expect("problem", "leave a way out").await?;
    // Level at 28 mm, and a wall across the middle.
    b.click("add-plane").await?;
    b.fill("plane-0", "28").await?;
    b.expect("chambers", "A").await?;
    b.click("add-plane").await?;
    b.click("plane-1-axis-x").await?;
    b.fill("plane-1", "10").await?;
    b.expect("chambers", "B").await?;
    assert!(b.is_absent("chamber-2").await?, "a third chamber");
    // Nothing is picked yet: nothing to apply.
    assert!(!b.find("apply").await?.is_enabled().await?);
    b.point_in("viewport", 0, 120).await?;
    b.wait_for("[data-testid=chambers] .aimed").await?;
    b.click_in("viewport", 0, 120).await?;
    b.expect("chambers", "becomes a part").await?;
    b.click("apply").await?;
    b.expect("applied", "1 of 2 chambers enclosed became a part").await?;
    b.choose_part("Chamber of Bailer").await?;
    b.expect("gauge-state", "sealed").await?;
    b.close().await
}

#[tokio::test]
async fn a_bend_is_untangled_and_cut_along_a_drawn_line() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Stanchion bend").await?;
    b.click("finding-tangle-X1").await?;
    b.expect("cause", "its middle line needs a bend of more than").await?;
    b.click("station-shape").await?;
    b.click("tools-untangle").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("tools-saw").await?;
    b.expect("forecast", "cut into").await?;
    b.click("cutter-line").await?;
    b.expect("picks", "Click two or more points").await?;
    b.click_in("viewport", -250, 60).await?;
    b.click_in("viewport", 250, 60).await?;
    b.expect("forecast", "cut into").await?;
    b.click("apply").await?;
    b.find("part-Front half of Stanchion bend").await?;
    // Steps are given names in the ledger.
    b.click("ledger-tab").await?;
    b.click("step-17").await?;
    b.click("write-17").await?;
    b.fill("step-name", "Made solid").await?;
    b.click("keep-name").await?;
    b.expect("ledger", "Made solid").await?;
    b.close().await
}
