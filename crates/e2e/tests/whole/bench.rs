//! A person at the bench: parts told apart and tidied, tools that stay open, a view that stays where it is, remedies tried beforehand,
//! one's own undo, addresses, the jobs of a house, and nothing that keeps people out.

use nimbet_e2e::*;
use serde_json::json;
use thirtyfour::prelude::*;

use crate::Done;

#[tokio::test]
async fn parts_are_named_grouped_copied_and_deleted_one_by_one_and_many_at_once() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Hinge leaf").await?;
    b.click("part-more").await?;
    b.fill("part-name", "Leaf, port").await?;
    b.press_enter().await?;
    b.find("part-Leaf, port").await?;
    b.click("part-more").await?;
    b.click("part-duplicate").await?;
    b.find("part-Leaf, port 2").await?;
    // Many at once, in the list: found by a word, marked, put into a group, coloured.
    b.press("p").await?;
    b.fill("parts-search", "leaf").await?;
    b.click("mark-all").await?;
    b.expect("many", "3 marked").await?;
    b.fill("many-group", "hinge").await?;
    b.press_enter().await?;
    b.expect("row-Leaf, port 2", "hinge").await?;
    b.expect("row-Hinge leaf coat", "hinge").await?;
    b.choose("many-material", "Tin bronze").await?;
    b.expect("row-Leaf, port 2", "Tin bronze").await?;
    b.click("many-together").await?;
    b.expect("many-told", "3 parts, 2 objects and 1 copy of one").await?;
    // The file is that of each of them.
    b.click("parts-list-close").await?;
    for part in ["Leaf, port 2", "Hinge leaf coat"] {
        b.choose_part(part).await?;
        b.click("station-release").await?;
        b.expect("released", ".3mf").await?;
        b.expect("sheet-parts", part).await?;
    }
    b.press("p").await?;
    b.fill("parts-search", "leaf").await?;
    b.click("mark-all").await?;
    b.expect("many", "3 marked").await?;
    b.click("many-delete").await?;
    b.expect("parts-list", "No part is like that").await?;
    b.click("parts-list-close").await?;
    // What was done at once is taken back at once.
    b.press_with_control("z").await?;
    b.find("part-Hinge leaf coat").await?;
    b.find("part-Leaf, port").await?;
    b.find("part-Leaf, port 2").await?;
    b.close().await
}

#[tokio::test]
async fn an_open_tool_stays_at_its_station_and_hears_enter_and_escape() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Strainer cup").await?;
    b.click("station-wall").await?;
    b.click("tools-coat").await?;
    // Every part it makes has its row.
    b.expect("made", "Coat of Strainer cup").await?;
    b.expect("made", "only touches").await?;
    b.click("station-seal").await?;
    b.expect("open-tool", "is open at Wall").await?;
    assert!(b.is_absent("forecast").await?, "not shown at another station");
    b.click("station-wall").await?;
    b.expect("made", "Coat of Strainer cup").await?;
    // The list hears Escape before the tool does.
    b.click("job-name").await?;
    b.wait_for(".v-overlay--active [data-testid=\"all-jobs\"]").await?;
    b.escape_lists().await?;
    b.expect("made", "Coat of Strainer cup").await?;
    // What was clicked last only has the focus: Enter applies all the same.
    b.click("view-front").await?;
    b.press_here(Key::Enter).await?;
    b.expect("applied", "Coat").await?;
    b.find("part-Coat of Strainer cup").await?;
    // Faces are picked by keyboard: walked to, then taken.
    b.click("tools-coat").await?;
    b.expect("made", "Coat of Strainer cup").await?;
    b.press("f").await?;
    b.press("f").await?;
    b.press(" ").await?;
    b.expect("picks", "1 face").await?;
    b.expect("forecast", "1 face bare").await?;
    // And Escape closes the tool.
    b.press_here(Key::Escape).await?;
    b.find("tools-coat").await?;
    b.close().await
}

#[tokio::test]
async fn the_view_stays_and_a_finding_is_seen_from_its_side() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Vent cowl").await?;
    b.click("view-back").await?;
    let eye = b.eye().await?;
    // A finding is flown to, and what its remedies would do is known before one is taken.
    b.press("n").await?;
    b.expect("trial-0", "✓").await?;
    let eye = b.eye_away_from(&eye).await?;
    b.click("remedy-0").await?;
    b.expect("forecast-table", "State").await?;
    assert_eq!(b.eye().await?, eye, "a forecast moves nothing");
    b.click("apply").await?;
    b.expect("applied", "Done").await?;
    assert_eq!(b.eye().await?, eye, "nor does applying it");
    b.press_with_control("z").await?;
    b.wait_for("[data-testid=\"redo\"]:not([disabled])").await?;
    b.click("station-weigh").await?;
    assert_eq!(b.eye().await?, eye, "nor undo, nor another station");
    b.close().await
}

#[tokio::test]
async fn undo_says_whose_step_it_would_be() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Strainer cup").await?;
    let jobs = reqwest::get(format!("{}/api/v1/jobs", server.address)).await?.json::<serde_json::Value>().await?;
    let client = Client::of(&server.address, jobs[0]["id"].as_str().unwrap_or_default());
    let cup = client.show().await?["parts"].as_array().cloned().unwrap_or_default();
    let cup = cup.iter().find(|p| p["name"] == "Strainer cup").map(|p| p["id"].clone());
    let action = json!({ "kind": "label", "name": "Strainer, second" });
    client.ask("steps", json!({ "part": cup, "action": action, "who": "Ada" })).await?;
    b.find("part-Strainer, second").await?;
    b.press_with_control("z").await?;
    b.expect("others-step", "Ada: Label: called Strainer, second").await?;
    b.find("part-Strainer, second").await?;
    b.click("undo-anyway").await?;
    b.find("part-Strainer cup").await?;
    b.close().await
}

#[tokio::test]
async fn every_place_has_an_address_and_jobs_a_page() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Strainer cup").await?;
    b.click("station-wall").await?;
    b.expect("wall-summary", "Thinnest").await?;
    b.expect_path("/wall").await?;
    let wall = b.path().await?;
    b.click("ledger-tab").await?;
    b.click("step-5").await?;
    b.expect_path("/steps/5").await?;
    // Back to where it was, and there after the page is loaded anew.
    b.back().await?;
    b.expect("wall-summary", "Thinnest").await?;
    b.expect_path(&wall).await?;
    b.reload().await?;
    b.expect("wall-summary", "Thinnest").await?;
    b.expect("gauge-state", "sealed").await?;
    // The jobs: renamed, copied, put away and fetched again.
    b.click("job-name").await?;
    b.click("all-jobs").await?;
    b.expect("job-Tern Quay Fittings", "16 parts").await?;
    b.click("rename-job-Tern Quay Fittings").await?;
    b.type_and_enter("Spring order").await?;
    b.find("job-Spring order").await?;
    b.click("copy-job-Spring order").await?;
    b.find("job-Spring order, copy").await?;
    b.click("archive-Spring order").await?;
    b.click("archive").await?;
    b.click("archive-Spring order").await?;
    b.expect("jobs-page", "Nothing is in the archive").await?;
    // Another one is begun, and is empty.
    b.fill("jobs-new", "Bollards").await?;
    b.click("jobs-create").await?;
    b.expect("job-name", "Bollards").await?;
    // What is not there is said, with the jobs that are.
    b.goto(&format!("{}/jobs/00000000-0000-7000-8000-000000000000", server.address)).await?;
    b.expect("lost", "no such job").await?;
    b.find("job-Bollards").await?;
    b.close().await
}

/// Each station, an open tool, a finding, the lists: by day and by night.
#[tokio::test]
async fn nothing_on_the_screen_keeps_people_out() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    let clear = async |place: &str| -> Done {
        let barriers = b.barriers().await?;
        anyhow::ensure!(barriers.is_empty(), "{place}: {barriers:#?}");
        Ok(())
    };
    for theme in ["by day", "by night"] {
        b.choose_part("Strainer cup").await?;
        for station in ["bring", "shape", "seal", "wall", "weigh", "fasten", "release"] {
            b.click(&format!("station-{station}")).await?;
            if station == "wall" {
                b.expect("wall-summary", "Thinnest").await?;
            }
            clear(&format!("{station} {theme}")).await?;
        }
        b.click("ledger-tab").await?;
        b.click("step-3").await?;
        clear(&format!("ledger {theme}")).await?;
        b.click("station-wall").await?;
        b.click("tools-coat").await?;
        b.expect("made", "Coat of").await?;
        clear(&format!("a tool {theme}")).await?;
        b.click("cancel").await?;
        b.choose_part("Vent cowl").await?;
        b.click("station-seal").await?;
        b.press("n").await?;
        b.expect("trial-0", "✓").await?;
        clear(&format!("a finding {theme}")).await?;
        b.press("p").await?;
        b.find("mark-all").await?;
        clear(&format!("parts {theme}")).await?;
        b.click("parts-list-close").await?;
        b.click("theme").await?;
    }
    b.goto(&format!("{}/jobs", server.address)).await?;
    b.expect("job-Tern Quay Fittings", "16 parts").await?;
    clear("jobs").await?;
    b.close().await
}

#[tokio::test]
async fn a_newcomer_walks_the_route_and_reads_the_manual() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    // Found by a word of anybody's, not by its name.
    b.find("gauge-state").await?;
    b.press_with_control("k").await?;
    b.find("search-field").await?;
    b.type_and_enter("tutorial").await?;
    b.expect("walk", "A file came in").await?;
    b.expect("gauge-state", "open: 9 rims").await?;
    b.click("walk-on").await?;
    b.expect("walk", "See what is wrong").await?;
    b.click("finding-gap-G1").await?;
    b.expect("walk", "Go on").await?;
    b.click("walk-on").await?;
    b.click("tool-plan").await?;
    b.expect("forecast-table", "sealed").await?;
    // What an open tool does stands on its page, with those beside it.
    b.click("help").await?;
    b.expect("help-page", "Goes wrong: a rim that is meant to stay open").await?;
    b.click("help-find_inside").await?;
    b.expect("help-page", "Arranges everything exactly").await?;
    b.click("help-close").await?;
    b.expect("walk", "Skip").await?;
    b.click("apply").await?;
    b.expect("walk", "Go on").await?;
    b.click("walk-on").await?;
    b.expect("walk", "Is it thick enough?").await?;
    b.click("walk-on").await?;
    b.choose("material", "Tin bronze").await?;
    b.click("keep-material").await?;
    b.expect("walk", "Go on").await?;
    b.click("walk-on").await?;
    b.expect("walk", "Bore it").await?;
    b.click("walk-on").await?;
    b.click("release").await?;
    b.expect("check-sheet", "Read back, the file is a solid").await?;
    b.expect("walk", "That was it").await?;
    b.click("walk-on").await?;
    assert!(b.is_absent("walk").await?);
    b.close().await
}
