//! A person at the station Weigh: a cup filled to 50 ml, two sections and one handed out, a measure that follows the part, a
//! hollow compared with what it was; and what the API says to the same.

use crate::Done;
use nimbet_e2e::*;
use nimbet_trade::demo;
use reqwest::Method;
use serde_json::json;

#[tokio::test]
async fn a_cup_is_filled_cut_open_and_measured() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Strainer cup").await?;
    b.click("station-weigh").await?;
    b.expect("volume", "21\u{2009}199 mm³").await?;
    b.expect("faceting", "+0.11").await?;
    b.click("fold-capacity").await?;
    b.click("pick-vessel").await?;
    b.expect("picks", "inside of the vessel").await?;
    b.click_in("viewport", 0, -200).await?;
    b.expect("capacity", "71.8").await?;
    b.expect("level-handle", "41 mm deep").await?;
    b.fill("liquid-volume", "50").await?;
    b.expect("capacity", "50 ml").await?;
    b.expect("level-handle", "29.67 mm deep").await?;
    // Dragged down there is less; more than it holds is told.
    b.drag_in("level-handle", (0, 0), (0, 60)).await?;
    b.expect_one_of("level-handle", &["4", "3", "2", "1"]).await?;
    b.fill("liquid-volume", "90").await?;
    b.expect("over", "no more than 71.8").await?;
    b.fill("liquid-volume", "50").await?;
    b.expect("capacity", "50 ml").await?;
    b.click("keep-liquid").await?;
    b.expect("forecast", "50 ml, 29.7 mm deep").await?;
    b.click("apply").await?;
    b.find("part-Filling of Strainer cup").await?;
    // Two sections; the area of one is what its drawing holds.
    b.click("fold-capacity").await?;
    b.click("fold-sections").await?;
    b.click("section-x").await?;
    b.expect("section-told-0", "mm²").await?;
    b.click("section-z").await?;
    // Above the liquid there is the wall of the cup alone.
    b.fill("section-place-1", "40").await?;
    let told = b.expect("section-told-1", "328.6").await?;
    let area: f64 = told.split(' ').next().unwrap().replace('\u{2009}', "").parse()?;
    b.expect("section", "Section 2").await?;
    let (name, svg) = b.download("section-svg-1").await?;
    assert!(name.ends_with(".svg"), "{name}");
    let drawn = area_of(&String::from_utf8(svg)?);
    assert!((drawn / area - 1.0).abs() < 1e-3, "{drawn} is not {area}");
    b.click("section").await?;
    b.close().await
}

/// The area within the hatched path of a drawing: outlines less holes.
fn area_of(svg: &str) -> f64 {
    let path = svg.split("class=\"cut\"").nth(1).unwrap().split(" d=\"").nth(1).unwrap().split('"').next().unwrap();
    let chain = |text: &str| {
        let point = |p: &str| p.split(' ').map(|x| x.parse().unwrap()).collect::<Vec<f64>>();
        let points: Vec<Vec<f64>> = text.trim_end_matches('Z').split('L').map(point).collect();
        points.iter().zip(points.iter().cycle().skip(1)).map(|(a, b)| a[0] * b[1] - b[0] * a[1]).sum::<f64>() * 0.5
    };
    path.split('M').filter(|c| !c.is_empty()).map(chain).sum::<f64>().abs()
}

#[tokio::test]
async fn a_measure_follows_the_part_and_a_hollow_is_compared() -> Done {
    let server = Server::with_demo().await?;
    let b = Browser::open(&server.address).await?;
    b.choose_part("Tiller core").await?;
    b.click("station-weigh").await?;
    b.choose("material", "Tin bronze").await?;
    b.expect("mass", "175.4 g").await?;
    // All figures change their units at once, and back.
    b.click("job-name").await?;
    b.choose("unit-mass", "dwt").await?;
    b.choose("unit-length", "cm").await?;
    b.expect("mass", "112.8 dwt").await?;
    b.expect("gauge-size", " cm").await?;
    b.choose("unit-mass", "g").await?;
    b.choose("unit-length", "mm").await?;
    b.expect("mass", "175.4 g").await?;
    b.click("job-name").await?;
    b.click("keep-material").await?;
    b.expect("keep-material", "Kept").await?;
    b.click("fold-measure").await?;
    b.click("measure-face").await?;
    b.expect("measure-hint", "Click a face").await?;
    b.click_in("viewport", 0, 0).await?;
    b.expect("measured", "R 7").await?;
    b.click("keep-measure").await?;
    b.expect("notes", "M1").await?;
    // Grown, it is as much larger as the note says.
    b.click("station-wall").await?;
    b.click("tools-grow").await?;
    b.fill("by", "1").await?;
    b.expect("forecast", "grown by 1 mm").await?;
    b.click("apply").await?;
    b.click("station-weigh").await?;
    b.expect("notes", "R 8").await?;
    b.click("station-wall").await?;
    b.click("tools-hollow").await?;
    b.expect("forecast-table", "sealed").await?;
    b.click("apply").await?;
    b.click("ledger-tab").await?;
    b.click("step-19").await?;
    b.click("compare-19").await?;
    b.expect("compare", "Volume").await?;
    b.expect("banner", "Two states compared").await?;
    b.close().await
}

#[tokio::test]
async fn figures_on_demand_are_right_and_what_cannot_be_is_refused() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("Cup.ply", ply_of(&demo::strainer_cup())?).await?;
    let job = client.show().await?;
    let mesh = job["parts"][0]["mesh"].as_str().unwrap().to_owned();
    let held = client.get(&format!("/meshes/{mesh}/capacity?at=5,5,3&volume=50000")).await?;
    assert!((held["capacity"]["depth"].as_f64().unwrap() - 29.675).abs() < 0.01, "{held}");
    let runs_off = client.send(Method::GET, &format!("/meshes/{mesh}/capacity?at=25,0,16"), None).await?;
    assert_eq!(runs_off.0, 422, "{}", runs_off.1);
    let nonsense = client.send(Method::GET, &format!("/meshes/{mesh}/capacity?at=5,5&depth=1"), None).await?;
    assert_eq!(nonsense.0, 400);
    let cut = client.get(&format!("/meshes/{mesh}/cut?at=0,0,30&normal=0,0,1")).await?;
    assert!((cut["cut"]["area"].as_f64().unwrap() - 321.2).abs() < 0.5, "{}", cut["cut"]["area"]);
    let dxf = client.bytes(&format!("/jobs/{}/cut/dxf?at=0,0,30&normal=0,0,1", client.job)).await?;
    assert!(String::from_utf8(dxf)?.contains("1_CUP"));
    // Shrinkage counts once.
    let scale = json!({ "kind": "weigh.scale_pattern", "shrinkage": [1.5, 1.5, 1.5] });
    let step = |revision: u64| json!({ "revision": revision, "part": 1, "action": scale });
    let first = client.ask("steps", step(2)).await?;
    assert!(client.end_of(&first).await?["problem"].is_null());
    let (status, twice) = client.send(Method::POST, &format!("/jobs/{}/steps", client.job), Some(step(3))).await?;
    assert!(status == 422 && twice["detail"].as_str().unwrap().contains("step 2"), "{status} {twice}");
    // A material of one's own, its price, and a bench it does not fit, on the bill.
    let own = json!({ "name": "Quay metal", "density": 8.0, "shrinkage": 1.2, "price": 0.5 });
    let settings = json!({ "setup_revision": 1, "setup": { "materials": [own.clone()], "bench": [60.0, 55.0, 57.0] } });
    let path = format!("/jobs/{}/settings", client.job);
    assert_eq!(client.send(Method::PUT, &path, Some(settings)).await?.0, 200);
    let material = json!({ "kind": "weigh.set_material", "material": "Quay metal", "own": own });
    let set = client.ask("steps", json!({ "revision": 3, "part": 1, "action": material })).await?;
    assert!(client.end_of(&set).await?["problem"].is_null());
    let bill = String::from_utf8(client.bytes(&format!("/jobs/{}/bill.csv", client.job)).await?)?;
    let row = bill.lines().nth(1).unwrap();
    let mass = 21_199.0 / 0.985f64.powi(3) / 1000.0 * 8.0;
    let cells: Vec<&str> = row.split(',').collect();
    assert!(row.starts_with("\"Cup\",sealed,\"Quay metal\",8.000,"), "{row}");
    assert!((cells[5].parse::<f64>()? / mass - 1.0).abs() < 1e-3 && row.ends_with(",yes,0"), "{row}");
    assert!((cells[6].parse::<f64>()? / mass - 0.5).abs() < 1e-3, "{row}");
    // And on the check sheet of a release, as it was then.
    client.ask("releases", json!({ "part": 1, "format": "ply", "unit": "millimetre" })).await?;
    let sheet = client.get(&format!("/jobs/{}/releases", client.job)).await?[0]["sheet"].clone();
    assert_eq!((&sheet["bill"][0]["part"], &sheet["bill"][0]["fits"]), (&json!("Cup"), &json!(true)), "{sheet}");
    assert!((sheet["bill"][0]["cost"].as_f64().unwrap() / mass - 0.5).abs() < 1e-3, "{sheet}");
    Ok(())
}
