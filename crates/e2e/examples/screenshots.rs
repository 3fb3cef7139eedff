//! Takes the pictures of the documentation, from the demo job: run `scripts/screenshots`.

use std::path::PathBuf;
use std::time::Duration;

use nimbet_e2e::{Browser, Client, Server, ply_of, winged_block};
use nimbet_trade::demo;
use serde_json::{Value, json};

struct Camera {
    browser: Browser,
    folder: PathBuf,
}

impl Camera {
    async fn shoot(&self, name: &str) -> anyhow::Result<()> {
        // Views fly for a quarter of a second and are drawn without a graphics card.
        tokio::time::sleep(Duration::from_millis(1500)).await;
        std::fs::write(self.folder.join(format!("{name}.png")), self.browser.window.screenshot_as_png().await?)?;
        println!("{name}");
        Ok(())
    }
}

#[tokio::main]
async fn main() -> anyhow::Result<()> {
    let server = Server::with_demo().await?;
    let folder = PathBuf::from(std::env::args().nth(1).unwrap_or_else(|| "docs/screenshots".into()));
    let camera = Camera { browser: Browser::open_smooth(&server.address).await?, folder };
    let b = &camera.browser;

    if std::env::args().nth(2).as_deref() == Some("harm") {
        harm(&camera).await?;
        return bodies(&camera, &server.address).await;
    }
    b.choose_part("Vent cowl").await?;
    b.click("finding-rim-R1").await?;
    b.press(thirtyfour::Key::Escape).await?;
    b.click("view-home").await?;
    camera.shoot("seal").await?;
    b.click("finding-rim-R1").await?;
    b.click("remedy-0").await?;
    b.find("forecast-table").await?;
    camera.shoot("forecast").await?;
    b.click("apply").await?;
    b.find("applied").await?;
    b.click("tool-plan").await?;
    b.find("forecast-table").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("station-weigh").await?;
    b.choose("material", "Tin bronze").await?;
    b.click("keep-material").await?;
    b.expect("gauge-mass", "kg").await?;
    camera.shoot("weigh").await?;
    b.click("station-release").await?;
    b.click("release").await?;
    b.find("released").await?;
    camera.shoot("release").await?;
    b.click("ledger-tab").await?;
    b.click("own-steps").await?;
    b.click("step-18").await?;
    camera.shoot("ledger").await?;
    b.click("step-1").await?;
    b.click("compare-1").await?;
    b.expect("apart", "apart").await?;
    b.click("compare-end").await?;
    b.click("all-steps").await?;
    b.click("station-tab").await?;

    b.click("station-bring").await?;
    b.give_file("torn.stl", b"solid torn\nfacet normal 0 0 1\nouter loop\nvertex 0 0 zero\n").await?;
    b.expect("arrival-torn.stl", "line 4").await?;
    b.give_file("Spare ring.ply", &ply_of(&demo::porthole_ring())?).await?;
    b.expect("arrival-Spare ring.ply", "open").await?;
    let lantern = concat!(env!("CARGO_MANIFEST_DIR"), "/../brep/tests/parts/mast-lantern.step");
    b.give_file("Mast lantern.step", &std::fs::read(lantern)?).await?;
    b.find("bodies-in").await?.scroll_into_view().await?;
    camera.shoot("bring-in").await?;

    b.choose_part("Porthole ring").await?;
    b.click("station-seal").await?;
    b.click("finding-gap-G1").await?;
    b.click("remedy-0").await?;
    b.find("forecast-table").await?;
    b.click("gap-G2").await?;
    b.expect("forecast", "left 1 gap as asked").await?;
    b.click("view-home").await?;
    camera.shoot("gaps").await?;

    b.choose_part("Bailer").await?;
    b.click("view-home").await?;
    b.press(thirtyfour::Key::Escape).await?;

    b.choose_part("Tiller grip").await?;
    b.click("view-home").await?;
    b.click("tool-plan").await?;
    b.expect("forecast-table", "sealed").await?;
    camera.shoot("plan").await?;
    b.press(thirtyfour::Key::Escape).await?;
    b.take_tool("smooth").await?;
    b.drag_in("viewport", (-40, -60), (10, 60)).await?;
    b.find("forecast-table").await?;
    b.click("apply").await?;
    b.find("applied").await?;
    b.click("lens-deviation").await?;
    b.find("deviation-scale").await?;
    camera.shoot("deviation").await?;

    b.click("lens-plain").await?;
    b.choose_part("Half fairlead").await?;
    b.click("station-shape").await?;
    b.click("view-home").await?;
    b.click("tools-mirror").await?;
    b.find("forecast-table").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("tools-saw").await?;
    b.find("forecast-table").await?;
    b.click_in("pegs", -125, 0).await?;
    b.expect("forecast", "2 pegs").await?;
    camera.shoot("saw").await?;
    b.press(thirtyfour::Key::Escape).await?;
    b.choose_part("Fog bell").await?;
    b.click("station-shape").await?;
    b.click("tools-ball").await?;
    b.expect("forecast", "added a ball").await?;
    b.click("apply").await?;
    b.find("part-Ball").await?;
    b.click("station-wall").await?;
    b.click("view-home").await?;
    b.click("tools-thicken").await?;
    b.find("forecast-table").await?;
    b.click("apply").await?;
    b.choose("process", "Sand casting, bronze").await?;
    b.click("finding-thin-wall-W1").await?;
    b.expect("since", "Thicken").await?;
    camera.shoot("wall").await?;
    b.choose_part("Ball").await?;
    b.choose("process", "Investment casting, bronze").await?;
    b.click("tools-hollow").await?;
    b.find("forecast-table").await?;
    b.click("add-drain").await?;
    b.expect("picks", "place of the drain").await?;
    b.click_in("viewport", -30, -30).await?;
    b.expect("forecast", "1 drain").await?;
    b.press(thirtyfour::Key::Escape).await?;

    b.choose_part("Filler neck").await?;
    b.click("station-fasten").await?;
    b.press("o").await?;
    b.click("view-home").await?;
    b.click("tools-thread").await?;
    b.click_in("viewport", 0, -120).await?;
    b.click("size-M36x3").await?;
    b.tick("left-handed").await?;
    b.expect("forecast", "left-handed").await?;
    b.click("apply").await?;
    b.find("threads").await?;
    b.tick("show-cut").await?;
    tokio::time::sleep(std::time::Duration::from_secs(6)).await;
    camera.shoot("threads").await?;

    b.choose_part("Strainer cup").await?;
    b.click("station-weigh").await?;
    // What other tools pinned stays away.
    b.press("o").await?;
    b.click("view-home").await?;
    b.expect("volume", "mm³").await?;
    b.click("fold-capacity").await?;
    b.click("pick-vessel").await?;
    b.expect("picks", "inside").await?;
    b.click_in("viewport", 0, -200).await?;
    b.fill("liquid-volume", "50").await?;
    b.expect("level-handle", "50 ml").await?;
    camera.shoot("capacity").await?;
    b.click("theme").await?;
    b.click("fold-capacity").await?;
    b.click("fold-sections").await?;
    b.click("section-x").await?;
    b.click("section-y").await?;
    b.expect("section-told-1", "mm²").await?;
    camera.shoot("section-dark").await?;
    camera.browser.close().await
}

/// What a step loses, and the board.
async fn harm(camera: &Camera) -> anyhow::Result<()> {
    let b = &camera.browser;
    b.click("station-bring").await?;
    b.give_file("Bracket with a stray sheet.ply", &ply_of(&winged_block()?)?).await?;
    b.expect("gauge-state", "open").await?;
    b.click("station-seal").await?;
    b.click("view-home").await?;
    b.take_tool("find_inside").await?;
    b.expect("harm-lost", "%").await?;
    camera.shoot("lost").await?;
    b.click("cancel").await?;
    b.click("station-shape").await?;
    b.click("tools-profile").await?;
    b.find("board").await?;
    for row in [
        "frame at 0, 0 size 80 x 50 radius 6",
        "slot from -18, 0 to 18, 0 width 9",
        "circle at -31, -16 diameter 6.6",
        "row of c by 62, 0 count 2",
        "mirrored of c, d from 0, 0 to 1, 0",
    ] {
        b.enter_row("row-new", row).await?;
        tokio::time::sleep(Duration::from_millis(700)).await;
    }
    b.expect("board-state", "closed: 6 regions").await?;
    b.press("o").await?;
    b.click_on_board(0.0, 16.0).await?;
    b.point_on_board(6.0, 16.0).await?;
    b.expect("slip", "diameter").await?;
    camera.shoot("drawing").await?;
    Ok(())
}

/// Bodies of profiles: a badge whose heights are looked at again, a grip between two rails.
async fn bodies(camera: &Camera, address: &str) -> anyhow::Result<()> {
    let b = &camera.browser;
    let client = Client::with_new_job(address).await?;
    b.goto(&format!("{address}/jobs/{}", client.job)).await?;
    b.click("example-pennant-badge").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("ledger-tab").await?;
    b.click("step-3").await?;
    b.click("reopen-3").await?;
    b.expect("made", "sealed").await?;
    camera.shoot("relief").await?;
    b.click("cancel").await?;
    // Its edges, the letters' too, and how much each has room for.
    b.click("station-tab").await?;
    b.choose_part("Relief").await?;
    b.click("station-shape").await?;
    b.click("tools-round").await?;
    b.click("on-sharp").await?;
    b.fill("radius", "0.1").await?;
    b.expect("forecast", "runs of edges rounded").await?;
    b.find("forecast-table").await?;
    camera.shoot("rounding").await?;
    b.click("cancel").await?;

    let client = Client::with_new_job(address).await?;
    let line = |draw: Value| json!([{ "name": "a", "draw": draw }]);
    let bent =
        |side: f64| json!({ "arc": { "from": [14.0 * side, 0], "via": [8.0 * side, 45], "to": [11.0 * side, 90] } });
    let level = json!({ "at": [0, 0, 0], "normal": [0, 0, 1] });
    for (called, draw) in [
        ("Left rail", line(bent(-1.0))),
        ("Right rail", line(bent(1.0))),
        ("Section", line(json!({ "ellipse": { "centre": [0, 0], "size": [20, 16] } }))),
    ] {
        let action =
            json!({ "kind": "shape.profile", "called": called, "plane": level, "right": [1, 0, 0], "lines": draw });
        client.ask("steps", json!({ "part": 0, "action": action })).await?;
    }
    b.goto(&format!("{address}/jobs/{}", client.job)).await?;
    b.choose_part("Section").await?;
    b.click("station-shape").await?;
    b.click("tools-sweep").await?;
    b.choose("path", "Left rail").await?;
    b.escape_lists().await?;
    b.click("held-second_path").await?;
    b.choose("held", "Right rail").await?;
    b.escape_lists().await?;
    b.expect("made", "sealed").await?;
    // What was made is drawn a little after it is told.
    tokio::time::sleep(Duration::from_millis(1500)).await;
    b.click("view-home").await?;
    camera.shoot("sweep").await
}
