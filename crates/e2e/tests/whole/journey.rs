//! A person at the bench: the first journey on each demo part, by mouse and by keyboard, and files that cannot be read.

use crate::Done;
use nimbet_e2e::*;
use nimbet_kernel::{Point, shapes};
use nimbet_trade::{PartState, demo};

/// Checks a downloaded file the way its receiver would.
fn prove(name: &str, bytes: &[u8], volume: std::ops::Range<f64>) {
    let seen = read_back(bytes, name).unwrap_or_else(|e| panic!("{name}: {e:#}"));
    assert_eq!(seen.figures.state, PartState::Sealed, "{name}");
    let got = seen.figures.volume.unwrap_or_default();
    assert!(volume.contains(&got), "{name}: {got} mm³");
}

#[tokio::test]
async fn the_vent_cowl_is_covered_rim_by_rim_weighed_and_released() -> Done {
    let database = fresh_database().await?;
    let mut server = Server::start(&database, &["--demo"])?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Vent cowl").await?;
    b.expect("gauge-state", "open: 2 rims, 717 mm").await?;
    b.click("station-weigh").await?;
    b.expect("no-volume", "open: 2 rims").await?;
    b.click("station-seal").await?;
    // R2 is flat, R1 is not: asking for a flat cover is answered with why, and taut works.
    b.click("finding-rim-R1").await?;
    b.click("remedy-0").await?;
    b.expect("forecast-table", "Naked edges 144").await?;
    b.click("style-flat").await?;
    b.expect("problem", "cover it taut").await?;
    b.click("style-domed").await?;
    b.expect("forecast-table", "Area 66\u{2009}993 mm² • 1\u{2009}2").await?;
    b.click("style-taut").await?;
    b.expect("forecast-table", "Area 66\u{2009}993 mm² • 81\u{2009}7").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "open: 1 rim").await?;
    b.expect("applied", "covered R1").await?;
    b.click("finding-rim-R1").await?;
    b.click("remedy-0").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;

    b.click("undo").await?;
    b.expect("gauge-state", "open: 1 rim").await?;
    b.click("redo").await?;
    b.expect("gauge-state", "sealed").await?;

    b.click("station-weigh").await?;
    b.expect("volume", "1\u{2009}601 cm³").await?;
    b.choose("material", "Tin bronze").await?;
    b.expect("mass", "14.0").await?;
    b.click("keep-material").await?;
    b.expect("gauge-mass", "14.0").await?;

    b.click("station-release").await?;
    b.click("release").await?;
    b.expect("check-sheet", "Read back, the file is a solid").await?;
    let (name, bytes) = b.download("download").await?;
    assert_eq!(name, "vent-cowl.3mf");
    prove(&name, &bytes, 1.600e6..1.602e6);

    // A power cut; the person comes back and finds everything as it was.
    server.kill();
    b.close().await?;
    let server = Server::start(&database, &["--demo"])?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Vent cowl").await?;
    b.expect("gauge-state", "sealed").await?;
    b.expect("gauge-mass", "14.0").await?;
    b.click("ledger-tab").await?;
    b.expect("ledger", "Material: Tin bronze").await?;
    b.close().await
}

#[tokio::test]
async fn the_porthole_ring_is_closed_with_a_reach_typed_by_hand() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Porthole ring").await?;
    b.expect("seal-summary", "5 findings block").await?;
    b.click("finding-gap-G1").await?;
    b.click("remedy-0").await?;
    b.expect("forecast-table", "sealed").await?;
    // A forecast is about one part: looking at another puts it away.
    b.choose_part("Mooring buoy").await?;
    b.expect("seal-summary", "Mooring buoy").await?;
    assert!(b.is_absent("apply").await?);
    b.choose_part("Porthole ring").await?;
    b.click("finding-gap-G1").await?;
    b.click("remedy-0").await?;
    b.expect("forecast-table", "sealed").await?;
    let field = b.find("reach").await?.find(thirtyfour::By::Tag("input")).await?;
    let retype = |text: &'static str| {
        let field = field.clone();
        async move {
            field.send_keys(thirtyfour::Key::Control + "a").await?;
            field.send_keys(text).await
        }
    };
    retype("nothing").await?;
    b.expect("reach", "This is not a number").await?;
    retype("0.05").await?;
    // Two of the four seams are wider than that.
    b.expect("forecast", "other facing edges stay open").await?;
    b.expect("forecast-table", "Gaps 4 ✓ 2").await?;
    // One gap left out stays open; taken in again, the part is sealed.
    retype("0.1").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("gap-G2").await?;
    b.expect("forecast", "left 1 gap as asked").await?;
    b.expect("forecast-table", "Gaps 4 ✓ 1").await?;
    b.click("gap-G2").await?;
    b.expect("forecast-table", "sealed").await?;
    b.expect("gauge-deviation", "none").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.expect("gauge-deviation", "0.001").await?;
    b.click("station-release").await?;
    b.choose("format", "STL").await?;
    b.click("release").await?;
    b.find("released").await?;
    let (name, bytes) = b.download("download").await?;
    assert_eq!(name, "porthole-ring.stl");
    prove(&name, &bytes, 1.44e5..1.48e5);
    b.close().await
}

#[tokio::test]
async fn the_mooring_buoy_is_turned_by_keyboard_alone() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.expect("gauge-state", "open").await?;
    // Ctrl k, the part's name, Enter.
    b.press_with_control("k").await?;
    b.find("search-field").await?;
    b.type_and_enter("buoy").await?;
    b.expect("gauge-state", "flipped: 1 shell is inside out").await?;
    b.press("n").await?;
    b.expect("remedy-0", "Turn outward").await?;
    b.press("cx").await?;
    b.press_with_control("k").await?;
    b.find("search-field").await?;
    b.type_and_enter("turn outward").await?;
    b.expect("forecast-table", "sealed").await?;
    b.press(thirtyfour::Key::Enter).await?;
    b.expect("gauge-state", "sealed").await?;
    b.press("7").await?;
    b.click("release").await?;
    b.find("released").await?;
    let (name, bytes) = b.download("download").await?;
    let pear = |wall: f64| 2.0 * std::f64::consts::PI / 3.0 * (70.0f64 - wall).powi(2) * (180.0 - 2.0 * wall);
    let theory = pear(0.0) - pear(6.0);
    prove(&name, &bytes, theory * 0.994..theory);
    b.press_with_control("z").await?;
    b.expect("gauge-state", "flipped").await?;
    b.press("?").await?;
    b.expect("keys", "Next / previous finding").await?;
    b.close().await
}

#[tokio::test]
async fn files_of_ones_own_come_in_and_bad_ones_say_why() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let b = Browser::open(&server.address).await?;
    b.click("station-bring").await?;
    b.give_file("torn.stl", b"solid torn\nfacet normal 0 0 1\nouter loop\nvertex 0 0 zero\n").await?;
    b.expect("arrival-torn.stl", "line 4: 'zero' is no number").await?;
    b.give_file("photo.stl", b"\x89PNG not a model at all").await?;
    b.expect("arrival-photo.stl", "The file cannot be read").await?;
    b.give_file("My ring.ply", &ply_of(&demo::porthole_ring())?).await?;
    b.expect("arrival-My ring.ply", "open: 9 rims").await?;
    b.expect("gauge-size", "168 × 168 × 16 mm").await?;
    assert!(!b.is_absent("part-My ring").await?);
    assert!(b.is_absent("part-torn").await?);
    // Many findings of a kind are one row, with one remedy for all of them.
    let sieve = big_ball(30).retain_triangles(|t| t % 40 != 0);
    b.give_file("sieve.stl", &stl_of(&sieve)?).await?;
    b.expect("gauge-state", "open: 8").await?;
    b.click("station-seal").await?;
    b.expect("group-rim", "rims").await?;
    assert!(b.is_absent("finding-rim-R1").await?);
    b.press("n").await?;
    b.find("finding-rim-R1").await?;
    b.click("all-rim").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.expect("gauge-state", "sealed").await?;
    b.click("station-bring").await?;
    // Large enough to be seen at work.
    b.give_file("ball.stl", &stl_of(&big_ball(300))?).await?;
    b.find("progress").await?;
    b.click("cancel-task").await?;
    b.expect("arrival-ball.stl", "Cancelled").await?;
    // Of a folder what can be read, each a part; the rest is told.
    let block = |size: f64| ply_of(&shapes::block(Point::ZERO, Point::splat(size)));
    let mut folder = vec![("notes.txt", b"none of these".to_vec()), ("torn.obj", b"f 1 2 3".to_vec())];
    for (n, name) in
        ["rib-1.ply", "rib-2.ply", "older/rib-3.ply", "older/rib-4.ply", "older/rib-5.ply"].iter().enumerate()
    {
        folder.push((name, block(10.0 + n as f64)?));
    }
    b.give_folder("ribs", &folder).await?;
    b.expect("stayed-out", "1 file of the folder cannot be read here and stayed out.").await?;
    for n in 1..=5 {
        b.expect(&format!("arrival-rib-{n}.ply"), "sealed").await?;
        b.find(&format!("part-rib-{n}")).await?;
    }
    b.expect("arrival-torn.obj", "cannot be read").await?;
    b.close().await
}
