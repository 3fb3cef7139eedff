//! A person at the board: a plate from nested outlines, its bore changed in the drawing afterwards; a dish from half a profile; an
//! outline with a gap, found and joined; a part begun on the empty bench.

use std::f64::consts::PI;

use crate::Done;
use nimbet_e2e::*;
use thirtyfour::Key;

/// Opens an empty board, looked at square.
async fn open_board(b: &Browser) -> Done {
    b.click("station-shape").await?;
    b.click("tools-profile").await?;
    b.find("board").await?;
    b.press("k").await?;
    Ok(())
}

/// Writes further rows into the list of lines.
async fn write(b: &Browser, rows: &[&str]) -> Done {
    for (n, row) in rows.iter().enumerate() {
        b.enter_row("row-new", row).await?;
        let name = char::from(b'a' + n as u8);
        b.find(&format!("row-{name}")).await?;
    }
    Ok(())
}

#[tokio::test]
async fn a_plate_is_drawn_extruded_and_changed_in_its_drawing() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    open_board(&b).await?;
    // Drawn by hand: a frame from corner to corner by two clicks and typed figures, a bore by its diameter.
    b.press("q").await?;
    b.click_on_board(-40.0, -25.0).await?;
    b.point_on_board(30.0, 20.0).await?;
    b.expect("slip", "width").await?;
    b.press("80").await?;
    b.press(Key::Tab).await?;
    b.press("50").await?;
    b.expect("slip-height", "50 mm").await?;
    b.press_here(Key::Enter).await?;
    b.expect("row-a", "80 × 50 mm").await?;
    b.press("o").await?;
    b.click_on_board(-30.0, -15.0).await?;
    b.press("6.6").await?;
    b.press_here(Key::Enter).await?;
    b.expect("row-b", "⌀ 6.6 mm").await?;
    // Written: copies that follow, and a slot.
    b.enter_row("row-new", "row of b by 60, 0 count 2").await?;
    b.find("row-c").await?;
    b.enter_row("row-new", "mirrored of b, c from 0, 0 to 1, 0").await?;
    b.find("row-d").await?;
    b.enter_row("row-new", "slot from -15, 0 to 15, 0 width 8").await?;
    b.expect("board-state", "closed: 6 regions").await?;
    // What is wrong is told, and nothing is lost by it; a stroke is taken back.
    b.enter_row("row-new", "circle at 0, 0 diameter 0").await?;
    b.expect("board-trouble", "its diameter is 0 mm").await?;
    b.click("row-e").await?;
    b.click("lines-remove").await?;
    b.expect("board-state", "closed: 5 regions").await?;
    b.press_with_control("z").await?;
    b.expect("board-state", "closed: 6 regions").await?;
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;

    b.click("tools-extrude").await?;
    b.expect("regions-taken", "1 region").await?;
    b.fill("above", "6").await?;
    b.expect("forecast", "extruded by 6 mm").await?;
    let plate = |bore: f64| {
        let (slot, bores) = (30.0 * 8.0 + 16.0 * PI, 4.0 * PI * bore * bore / 4.0);
        (80.0 * 50.0 - slot - bores) * 6.0
    };
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.choose_part("Extruded body").await?;
    let volume = |told: String| told.chars().filter(char::is_ascii_digit).collect::<String>().parse::<f64>();
    // Round bores are a little less than round: by the chord.
    let near = |told: String, exact: f64| volume(told).is_ok_and(|v| (v / exact - 1.0).abs() < 1e-3);
    assert!(near(b.expect("gauge-volume", "mm³").await?, plate(6.6)));

    // The profile goes out with its arcs as arcs.
    b.choose_part("Profile").await?;
    b.find("profile-dxf").await?;
    let fetch = "return fetch(document.querySelector('[data-testid=\"profile-dxf\"]').href).then((r) => r.text())";
    let file = b.window.execute(fetch, vec![]).await?.convert::<String>()?;
    assert_eq!((file.matches("CIRCLE\n").count(), file.matches("\nARC\n").count()), (4, 2), "{file}");
    b.choose_part("Extruded body").await?;

    // Ten steps back is one: the drawing is opened again and the bore made wider. The plate follows.
    b.click("ledger-tab").await?;
    b.click("step-17").await?;
    b.click("reopen-17").await?;
    b.click("row-b").await?;
    b.click("row-b").await?;
    b.enter_row("row-text", "circle at -30, -15 diameter 9").await?;
    b.expect("row-b", "⌀ 9 mm").await?;
    b.expect("later", "1 later step follows").await?;
    b.click("apply").await?;
    b.expect("applied", "Step 17").await?;
    b.choose_part("Extruded body").await?;
    assert!(near(b.expect("gauge-volume", "20\u{2009}7").await?, plate(9.0)));
    b.close().await
}

#[tokio::test]
async fn figures_and_rules_hold_a_drawing() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    open_board(&b).await?;
    // What is typed while drawing is held, and written on the paper.
    b.press("q").await?;
    b.click_on_board(-40.0, -25.0).await?;
    b.point_on_board(30.0, 20.0).await?;
    b.expect("slip", "width").await?;
    b.press("80").await?;
    b.press(Key::Tab).await?;
    b.press("50").await?;
    b.press_here(Key::Enter).await?;
    b.expect("board-done", "2 figures or rules held").await?;
    b.expect("draught-h1", "80 mm").await?;
    b.enter_row("row-new", "circle at -20, -10 diameter 6").await?;
    b.enter_row("row-new", "circle at 21, -9 diameter 7").await?;
    b.find("row-c").await?;
    // Pointed at: two circles, the same size; then their middles level.
    b.press("h").await?;
    b.click_on_board(-17.0, -10.0).await?;
    b.click_on_board(24.5, -9.0).await?;
    b.click("do-hold-same-size").await?;
    b.expect("row-c", "⌀ 6.5 mm").await?;
    b.click_on_board(-20.0, -10.0).await?;
    b.click_on_board(21.0, -9.0).await?;
    b.click("do-hold-level").await?;
    b.expect("row-h4", "centre of b and centre of c").await?;
    // A figure with its value: how far a bore is from an edge.
    b.click_on_board(-16.75, -9.5).await?;
    b.expect("hold-fields", "b").await?;
    b.fill("hold-diameter", "8").await?;
    b.click("do-hold-diameter").await?;
    b.expect("row-c", "⌀ 8 mm").await?;
    b.expect("board-loose", "loose: 5").await?;
    // A figure is written on the paper; all that has to do with it follows.
    b.press_here(Key::Escape).await?;
    b.click("draught-h1").await?;
    b.find("draught-field").await?;
    b.type_and_enter("100").await?;
    b.expect("row-a", "100 × 50 mm").await?;
    // What contradicts is not done: those that quarrel are shown, and one is let go.
    b.enter_row("row-new", "length of a.3 90").await?;
    b.expect("quarrel", "length of a.1 100").await?;
    b.expect("row-a", "100 × 50 mm").await?;
    b.click("let-go-h1").await?;
    b.expect("row-a", "90 × 50 mm").await?;
    // The body is made of what is held; the step says so in the ledger as any other.
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;
    b.close().await
}

#[tokio::test]
async fn a_dish_is_turned_from_half_a_profile_and_thickened() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.click("station-shape").await?;
    b.click("tools-profile").await?;
    b.click("axis-y").await?;
    write(&b, &["chain from 10, 0 to 30, 0 to 50, 20 bulge 0.414214"]).await?;
    b.expect("board-state", "open: 2 ends").await?;
    b.click("apply").await?;
    b.click("tools-revolve").await?;
    b.expect("forecast", "turned a sheet").await?;
    b.click("apply").await?;
    b.choose_part("Turned sheet").await?;
    b.click("station-wall").await?;
    b.click("tools-thicken").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.close().await
}

#[tokio::test]
async fn gaps_are_found_joined_and_crossing_lines_cut_back() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    open_board(&b).await?;
    // An outline from a file, in millimetres, that does not close by 0.02.
    let drawn = "0 LINE 10 0 20 0 11 40 21 0 0 LINE 10 40 20 0 11 40 21 30 0 LINE 10 40 20 30.02 11 0 21 30 0 LINE 10 0 20 30 11 0 21 0";
    let file = format!(
        "0 SECTION 2 HEADER 9 $INSUNITS 70 4 0 ENDSEC 0 SECTION 2 ENTITIES {drawn} 0 TEXT 1 name 0 ENDSEC 0 EOF"
    );
    let file: String = file.split_whitespace().map(|word| format!("{word}\n")).collect();
    b.give_file_to("lines-file-input", "outline.dxf", file.as_bytes()).await?;
    b.expect("board-done", "2 lines read (millimetre); left out: 1 text").await?;
    b.expect("board-state", "open: 2 ends, 0.02 mm apart").await?;
    b.expect("board-wrong", "1 gap, 0.02 mm").await?;
    b.click("board-join").await?;
    b.expect("board-done", "1 gap joined").await?;
    b.expect("board-state", "closed: 1 region").await?;
    // All corners in one go, with the count.
    b.click("open-soften").await?;
    b.fill("soften-radius", "5").await?;
    b.click("soften-all").await?;
    b.expect("board-done", "4 corners rounded").await?;
    b.expect("board-state", "179 mm").await?;
    // A line across: what sticks out goes by a click, and two regions are left.
    b.enter_row("row-new", "line from 20, -10 to 20, 40").await?;
    b.expect("board-state", "open: 2 ends").await?;
    b.click("aim-cut_back").await?;
    b.click_on_board(20.0, -6.0).await?;
    b.click_on_board(20.0, 36.0).await?;
    b.expect("board-state", "closed: 2 regions").await?;
    // And made a body of, both regions.
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;
    b.click("tools-extrude").await?;
    b.expect("made", "sealed").await?;
    b.close().await
}

/// Opens the page of a job without parts.
pub async fn empty_bench(server: &Server) -> anyhow::Result<(Browser, Client)> {
    let client = Client::with_new_job(&server.address).await?;
    let b = Browser::open_at(&format!("{}/jobs/{}?antialias=off", server.address, client.job)).await?;
    Ok((b, client))
}

#[tokio::test]
async fn a_badge_is_begun_on_the_empty_bench() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    b.click("draw-first").await?;
    b.find("board").await?;
    // A border, a bar across it, a disc, a letter in the floor.
    let rows = [
        "frame at 0, 0 size 40 x 30",
        "frame at 0, 0 size 36 x 26",
        "line from 0, -13 to 0, 13",
        "circle at 9, 0 diameter 8",
        "letters \"F\" at -11, -4 height 8",
    ];
    write(&b, &rows).await?;
    b.expect("board-state", "closed: 5 regions").await?;
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;
    b.click("tools-relief").await?;
    b.fill("rest", "4").await?;
    b.expect("forecast", "within a: 4 mm high").await?;
    // The regions by their size: the halves are floors, the disc a well, the letter stands up from its floor.
    let profile = client.show().await?["parts"][0]["mesh"].clone();
    let seen =
        client.at(&server.address).get(&format!("/meshes/{}/profile", profile.as_str().unwrap_or_default())).await?;
    let areas: Vec<f64> =
        seen["board"]["seen"]["regions"].as_array().into_iter().flatten().filter_map(|r| r["area"].as_f64()).collect();
    let find = |least: f64, most: f64| areas.iter().position(|a| (least..most).contains(a));
    let letter = areas.iter().copied().fold(f64::INFINITY, f64::min);
    let heights = [
        (find(440.0, 467.0), "2"),
        (find(410.0, 425.0), "3"),
        (find(50.0, 51.0), "1"),
        (areas.iter().position(|a| *a == letter), "3.5"),
    ];
    for (region, height) in heights {
        let region = region.ok_or_else(|| anyhow::anyhow!("regions of {areas:?}"))?;
        b.fill(&format!("relief-height-{region}"), height).await?;
    }
    b.expect("forecast", "a well 2 mm deep that takes 101 mm³").await?;
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    let disc = PI * 16.0;
    let exact = (40.0 * 30.0 - 36.0 * 26.0) * 4.0 + (468.0 - letter) * 2.0 + letter * 3.5 + (468.0 - disc) * 3.0 + disc;
    let told = client.show().await?["parts"][1]["figures"]["volume"].as_f64().unwrap_or(0.0);
    assert!((told / exact - 1.0).abs() < 1e-3, "{told} {exact}");
    b.close().await
}

#[tokio::test]
async fn a_rod_tighter_than_itself_is_taken_away_from_a_ring_and_an_outline_comes_in() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    // An outline from a file is a profile on the bench, told with what was left out.
    let drawing = r#"<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40"><rect width="60" height="40"/><text x="1" y="1">a</text></svg>"#;
    b.give_file("cover.svg", drawing.as_bytes()).await?;
    b.expect("arrival-cover.svg", "1 text").await?;
    b.click("station-shape").await?;
    b.expect("shape-profile", "cover is a profile").await?;
    // A groove round its middle: a rod along a circle tighter than its radius, foretold with the least radius.
    b.click("tools-profile").await?;
    b.find("board").await?;
    write(&b, &["circle at 0, 0 diameter 6"]).await?;
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;
    b.choose_part("Profile").await?;
    b.click("tools-tube").await?;
    b.fill("diameter", "10").await?;
    b.expect("forecast", "below 5 mm").await?;
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.choose_part("cover").await?;
    b.click("tools-extrude").await?;
    b.fill("above", "4").await?;
    b.expect("made", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-volume", "9\u{2009}600 mm³").await?;
    b.click("tools-difference").await?;
    b.choose("with", "Rod").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("applied", "Difference").await?;
    let parts = client.show().await?["parts"].clone();
    let body = parts.as_array().into_iter().flatten().find(|p| p["name"] == "Extruded body").cloned();
    let told = body.and_then(|p| p["figures"]["volume"].as_f64()).unwrap_or(0.0);
    // Of the rod's ring, 16 mm across, what lies in the plate is gone.
    assert!((9600.0 - 900.0..9600.0 - 400.0).contains(&told), "{told}");
    b.close().await
}

#[tokio::test]
async fn two_triangles_that_share_part_of_an_edge_become_a_sheet() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let (b, client) = empty_bench(&server).await?;
    b.click("draw-first").await?;
    b.find("board").await?;
    write(&b, &["chain from 0, 0 to 40, 0 to 20, 30 closed"]).await?;
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;
    b.click("tools-profile").await?;
    b.click("axis-y").await?;
    b.fill("at", "0").await?;
    // Its zero lies over the middle of what is there.
    write(&b, &["chain from -10, 0 to 10, 0 to 0, 30 closed"]).await?;
    b.click("apply").await?;
    b.expect("applied", "Profile").await?;
    b.click("station-seal").await?;
    b.take_tool("join").await?;
    b.choose("with", "Profile 2").await?;
    b.expect("forecast", "20 mm of naked edge joined").await?;
    b.click("apply").await?;
    b.expect("applied", "Join").await?;
    let figures = client.show().await?["parts"][0]["figures"].clone();
    assert_eq!((figures["rims"].as_u64(), figures["shells"].as_u64()), (Some(1), Some(1)), "{figures}");
    b.close().await
}
