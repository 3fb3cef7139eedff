//! A person at the station Fasten: four threads in a plate in one step and in the file that leaves; a bore too near an edge, plugged
//! again; a left-hand neck with its cap, screwed in.

use crate::Done;
use nimbet_e2e::*;
use nimbet_trade::PartState;

/// Chooses a size of thread by the first letters of its name.
async fn choose_size(b: &Browser, name: &str) -> Done {
    b.click("size").await?;
    b.type_and_enter(name).await
}

#[tokio::test]
async fn a_plate_gets_four_threads_in_one_step_and_a_bore_too_near_the_edge_is_plugged() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Deck plate").await?;
    b.click("station-fasten").await?;
    b.click("tools-thread_bores").await?;
    b.expect("picks", "Click where they go").await?;
    b.type_into("places-text", "-50 -30 8\n50 -30 8\n50 30 8\n-50 30").await?;
    b.expect("places-text", "Line 4: three figures are needed").await?;
    b.type_into("places-text", "-50 -30 8\n50 -30 8\n50 30 8\n-50 30 8").await?;
    b.expect("picks", "4 places picked").await?;
    b.expect("picks", "Choose the thread").await?;
    choose_size(&b, "M6x1").await?;
    b.expect("size", "tap drill 5 mm").await?;
    b.expect("forecast", "4 threaded bores of M6x1").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("threads", "4 × M6x1, in a bore, 8 mm long marked in step 17").await?;
    // In the file they are cut.
    b.click("station-release").await?;
    b.click("release").await?;
    b.find("released").await?;
    b.expect("check-sheet", "4 of M6x1").await?;
    let (name, bytes) = b.download("download").await?;
    let seen = read_back(&bytes, &name)?;
    let removed = 70_908.0 - seen.figures.volume.unwrap();
    assert_eq!((seen.figures.state, seen.figures.shells), (PartState::Sealed, 1));
    // The bores alone take 718 mm³ with their lead-ins, drums of the outer diameter with theirs 1 030.
    assert!((760.0..1020.0).contains(&removed), "{removed}");
    assert!(seen.figures.triangles > 5000);

    b.click("station-fasten").await?;
    b.click("tools-bores").await?;
    b.fill("diameter", "10").await?;
    b.type_into("places-text", "0 34 8\n0 0 8").await?;
    b.expect("notice", "bore 1 leaves 0.95 mm beside it, the process needs 1.5 mm").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("tools-plug").await?;
    // Into the bore in the middle, onto its far wall.
    b.click_in("viewport", 0, -28).await?;
    b.expect("forecast", "closed a bore 10.1 mm across").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.click("ledger-tab").await?;
    b.find("step-19").await?;
    b.close().await
}

#[tokio::test]
async fn a_left_hand_neck_and_its_cap_are_threaded_and_screwed_together() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Filler neck").await?;
    b.click("station-fasten").await?;
    b.click("tools-thread").await?;
    b.click_in("viewport", 0, -120).await?;
    b.expect("suggested", "It measures 32.75 mm").await?;
    b.expect("picks", "Choose the thread").await?;
    b.click("size-M36x3").await?;
    b.tick("left-handed").await?;
    b.expect("forecast", "marked 1 thread of M36x3, left-handed").await?;
    b.click("apply").await?;
    b.expect("threads", "1 × M36x3, left-handed, in a bore, 34 mm long").await?;
    b.choose_part("Filler cap").await?;
    b.click("tools-thread").await?;
    b.click_in("viewport", -60, 190).await?;
    b.click("size-M36x3").await?;
    b.click("fit-none").await?;
    b.tick("left-handed").await?;
    b.expect("forecast", "marked 1 thread of M36x3, left-handed").await?;
    b.click("apply").await?;
    b.expect("threads", "left-handed, on a pin, 11 mm long").await?;
    b.click("fold-fit").await?;
    b.click("check-fit").await?;
    b.expect("fit", "goes together").await?;
    b.expect("fit", "it screws in for 3.6 full turns").await?;
    // The counterpart of the neck by one choice: of its size and hand.
    b.click("tools-stud").await?;
    b.choose("counterpart", "Filler neck: M36x3, left-handed").await?;
    b.expect("forecast", "M36x3, left-handed").await?;
    b.click("apply").await?;
    b.find("part-Stud M36x3, left-handed").await?;
    b.close().await
}
