//! A person at the station Wall: a bell thickened by number and by its handle, a body hollowed with a drain and coated, a wall
//! that is too thin found and undone.

use crate::Done;
use nimbet_e2e::*;

#[tokio::test]
async fn a_bell_is_thickened_by_number_and_by_its_handle_and_its_wall_is_read() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Fog bell").await?;
    b.click("station-wall").await?;
    b.expect("no-wall", "open: 1 rim").await?;
    b.expect("gauge-least wall", "none: open").await?;
    b.click("tools-thicken").await?;
    b.expect("forecast", "a wall of 3 mm").await?;
    // A minus turns the wall to the inside.
    b.fill("thickness", "-2").await?;
    b.expect("forecast", "a wall of 2 mm").await?;
    b.expect("wall-handle", "2 mm inside").await?;
    // Dragged outward the handle makes it thinner, and in the end goes to the other side.
    b.drag_in("wall-handle", (0, 0), (60, 40)).await?;
    b.expect("wall-handle", "mm").await?;
    b.fill("thickness", "2").await?;
    b.expect("forecast-table", "sealed").await?;
    b.expect("forecast", "a wall of 2 mm").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.expect("gauge-least wall", "2 mm").await?;
    b.expect("wall-summary", "Thinnest 2").await?;
    b.expect("wall-scale", "below 1.5 mm").await?;
    // Cast in sand it is too thin, and where is told.
    b.choose("process", "Sand casting, bronze").await?;
    b.expect("wall-findings", "Thin wall W1").await?;
    b.expect("wall-findings", "instead of 4 mm").await?;
    b.click("finding-thin-wall-W1").await?;
    b.expect("since", "Thicken by 2 mm").await?;
    // A house's own figure goes before the process's.
    b.click("asks").await?;
    b.fill("asks-wall", "1.9").await?;
    b.expect("asks", "wall 1.9 mm*").await?;
    b.expect("wall-scale", "below 1.9 mm").await?;
    // Reopened, the step is what it was, and follows another figure.
    b.click("ledger-tab").await?;
    b.click("step-17").await?;
    b.click("reopen-17").await?;
    b.expect("forecast", "a wall of 2 mm").await?;
    b.fill("thickness", "2.5").await?;
    b.expect("forecast", "a wall of 2.5 mm").await?;
    b.click("apply").await?;
    b.expect("gauge-least wall", "2.5 mm").await?;
    b.click("undo").await?;
    b.expect("gauge-least wall", "2 mm").await?;
    b.click("undo").await?;
    b.expect("gauge-least wall", "none: open").await?;
    b.close().await
}

#[tokio::test]
async fn a_body_is_hollowed_with_a_drain_and_coated() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Fog bell").await?;
    b.click("station-shape").await?;
    b.click("tools-ball").await?;
    b.expect("forecast", "added a ball").await?;
    b.click("apply").await?;
    b.choose_part("Ball").await?;
    b.click("station-wall").await?;
    b.click("tools-hollow").await?;
    b.expect("forecast", "no drain").await?;
    b.click("add-drain").await?;
    b.expect("picks", "place of the drain").await?;
    b.click_in("viewport", -30, -30).await?;
    b.expect("forecast", "1 drain through the wall").await?;
    b.click("apply").await?;
    b.expect("gauge-least wall", "3").await?;
    b.click("tools-coat").await?;
    b.expect("forecast", "a coat of 0.1 mm").await?;
    b.expect("forecast", "stays as it is").await?;
    b.click("apply").await?;
    b.find("part-Coat of Ball").await?;
    b.close().await
}

#[tokio::test]
async fn a_leaf_is_coated_but_for_a_face() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Hinge leaf").await?;
    b.click("station-wall").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("tools-coat").await?;
    b.expect("forecast", "a coat of 0.1 mm").await?;
    b.fill("thickness", "0.05").await?;
    b.expect("forecast", "a coat of 0.05 mm").await?;
    b.click_in("viewport", -110, 66).await?;
    b.expect("picks", "1 face").await?;
    b.expect("forecast", "1 face bare").await?;
    // What is no figure is not applied, and what it was before is shown as old; a figure is applied as it was typed.
    b.fill("thickness", "thin").await?;
    b.find("old").await?;
    assert!(!b.find("apply").await?.is_enabled().await?);
    b.fill("thickness", "0.07").await?;
    b.fill("thickness", "0.06\u{e007}").await?;
    b.expect("applied", "a coat of 0.06 mm").await?;
    b.find("part-Coat of Hinge leaf").await?;
    b.close().await
}

#[tokio::test]
async fn a_groove_too_deep_is_found_with_its_step_and_undone() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Hinge leaf").await?;
    b.click("station-shape").await?;
    b.click("tools-block").await?;
    let figures = [("size-x", "6"), ("size-y", "60"), ("size-z", "3"), ("at-x", "27"), ("at-y", "20"), ("at-z", "2.6")];
    for (field, figure) in figures {
        b.fill(field, figure).await?;
    }
    b.expect("forecast", "added a block").await?;
    b.click("apply").await?;
    b.find("part-Block").await?;
    b.click("tools-difference").await?;
    b.choose("with", "Block").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    // Of the plate of 4 mm 1.1 are left.
    b.click("station-wall").await?;
    b.expect("wall-findings", "1.1 mm instead of 1.5 mm").await?;
    b.click("finding-thin-wall-W1").await?;
    b.expect("since", "Take 1 part away").await?;
    b.click("undo").await?;
    b.expect("gauge-least wall", "1.78").await?;
    b.close().await
}

#[tokio::test]
async fn parts_that_overlap_are_found_and_told_apart() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Deck plate").await?;
    b.click("station-wall").await?;
    b.choose("clearance-to", "Hinge leaf").await?;
    b.expect("clearance", "They overlap: 8\u{2009}582 mm³ in common").await?;
    b.expect("wall-scale", "CLEARANCE TO HINGE LEAF").await?;
    b.click("finding-overlap-V1").await?;
    b.click("remedy-0").await?;
    b.expect("forecast", "took 8.58 cm³ away").await?;
    b.click("apply").await?;
    b.expect("clearance", "They touch").await?;
    b.expect("pair-findings", "touching instead of").await?;
    b.close().await
}
