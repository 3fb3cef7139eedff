//! The API against a real MariaDB: the whole job, refusals, and what survives a kill.

use crate::Done;
use nimbet_e2e::*;
use nimbet_trade::{PartState, demo};
use reqwest::Method;
use serde_json::{Value, json};
use sqlx::Row;

fn state(job: &Value, part: usize) -> &str {
    job["parts"][part]["figures"]["state"].as_str().unwrap_or("none")
}

#[tokio::test]
async fn a_leaking_file_is_sealed_weighed_released_and_survives_a_restart() -> Done {
    let database = fresh_database().await?;
    let mut server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let task = client.bring_in("Vent cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    assert_eq!(task["state"], "done", "{task}");

    let plan = json!({ "part": 1, "action": { "kind": "seal.plan" } });
    let forecast = client.ask("forecasts", plan.clone()).await?;
    assert_eq!(forecast["result"]["report"]["after"]["state"], "sealed", "{forecast}");
    assert_eq!(state(&client.show().await?, 0), "open", "a forecast changes nothing");
    let applied = client.ask("steps", plan).await?;
    assert_eq!(applied["result"]["step"], 2);
    let material = json!({ "part": 1, "action": { "kind": "weigh.set_material", "material": "bronze-tin-10" } });
    client.ask("steps", material).await?;
    let sealed = client.show().await?;
    assert_eq!(sealed["parts"][0]["mesh"], forecast["result"]["mesh"], "applied is what was forecast");
    let volume = sealed["parts"][0]["figures"]["volume"].as_f64().unwrap();
    assert!((sealed["parts"][0]["mass"].as_f64().unwrap() - volume / 1000.0 * 8.78).abs() < 1e-6);

    // Undo both, restart, redo: everything is as it was.
    let path = format!("/jobs/{}/undo", client.job);
    assert_eq!((sealed["undo"].as_str(), sealed["redo"].as_str()), (Some("Material: Tin bronze, 10 % tin"), None));
    let undo = json!({ "revision": sealed["revision"] });
    let (_, once) = client.send(Method::POST, &path, Some(undo.clone())).await?;
    assert_eq!((once["undo"].as_str(), state(&once, 0)), (Some("Seal plan"), "sealed"));
    let (status, undone) = client.send(Method::POST, &path, Some(json!({ "revision": once["revision"] }))).await?;
    assert_eq!((status, state(&undone, 0)), (200, "open"));
    let (status, stale) = client.send(Method::POST, &path, Some(undo)).await?;
    assert_eq!((status, stale["type"].as_str()), (409, Some("urn:nimbet:stale-revision")));
    assert!(server.stop(), "the server stops when asked");
    let server = Server::start(&database, &[])?;
    let client = client.at(&server.address);
    let found = client.show().await?;
    assert_eq!(found, undone);
    let mut redone = found;
    for _ in 0..2 {
        let path = format!("/jobs/{}/redo", client.job);
        redone = client.send(Method::POST, &path, Some(json!({ "revision": redone["revision"] }))).await?.1;
    }
    assert_eq!((&redone["parts"], &redone["steps"]), (&sealed["parts"], &sealed["steps"]));

    for (format, name) in [("3mf", "a.3mf"), ("stl", "a.stl"), ("obj", "a.obj"), ("ply", "a.ply")] {
        let wanted = json!({ "part": 1, "format": format, "unit": "millimetre" });
        let task = client.ask("releases", wanted).await?;
        let id = task["result"]["release"].as_str().unwrap_or_else(|| panic!("{task}")).to_owned();
        let file = client.bytes(&format!("/releases/{id}/file")).await?;
        let again = read_back(&file, name)?;
        assert_eq!(again.figures.state, PartState::Sealed);
        assert!((again.figures.volume.unwrap() / volume - 1.0).abs() < 1e-5);
    }
    let list = client.get(&format!("/jobs/{}/releases", client.job)).await?;
    assert_eq!(list.as_array().map(Vec::len), Some(4));
    Ok(())
}

#[tokio::test]
async fn a_new_step_after_an_undo_takes_the_place_of_what_was_undone() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("Vent cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    let cover = |style: &str| json!({ "part": 1, "action": { "kind": "seal.cover_rim", "style": style } });
    client.ask("steps", cover("flat")).await?;
    let job = client.show().await?;
    let undo = json!({ "revision": job["revision"] });
    client.send(Method::POST, &format!("/jobs/{}/undo", client.job), Some(undo)).await?;
    client.ask("steps", cover("taut")).await?;
    let job = client.show().await?;
    assert_eq!((job["steps"].as_array().map(Vec::len), job["cursor"].as_u64()), (Some(2), Some(2)));
    assert_eq!(job["steps"][1]["number"], 3, "numbers are never used twice");
    assert_eq!(state(&job, 0), "sealed");
    Ok(())
}

#[tokio::test]
async fn the_chord_tolerance_is_a_setting_of_the_job() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    assert_eq!(client.show().await?["setup"]["chord"], 0.02);
    let path = format!("/jobs/{}/settings", client.job);
    let (status, job) =
        client.send(Method::PUT, &path, Some(json!({ "setup_revision": 1, "setup": { "chord": 0.005 } }))).await?;
    assert_eq!((status, job["setup"]["chord"].as_f64(), job["setup_revision"].as_u64()), (200, Some(0.005), Some(2)));
    assert_eq!(job["revision"], 1, "steps do not mind it");
    for (body, wanted) in [
        (json!({ "setup_revision": 1, "setup": { "chord": 0.1 } }), 409),
        (json!({ "setup_revision": 2, "setup": { "chord": 0.0 } }), 400),
    ] {
        assert_eq!(client.send(Method::PUT, &path, Some(body)).await?.0, wanted);
    }
    assert_eq!(client.show().await?["setup"]["chord"], 0.005);
    Ok(())
}

#[tokio::test]
async fn steps_are_named_and_become_a_recipe() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("Vent cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    client.ask("steps", json!({ "part": 1, "action": { "kind": "seal.plan" } })).await?;
    let label = |step: u32| format!("/jobs/{}/steps/{step}/label", client.job);
    let named = json!({ "revision": 3, "name": " Closed for the foundry ", "note": "Taut above." });
    let (status, job) = client.send(Method::PUT, &label(2), Some(named.clone())).await?;
    assert_eq!((status, job["steps"][1]["name"].as_str()), (200, Some("Closed for the foundry")));
    assert_eq!(job["steps"][1]["note"], "Taut above.");
    assert!(job["steps"][1]["report"]["seconds"].as_f64().unwrap() > 0.0);
    assert_eq!(client.send(Method::PUT, &label(2), Some(named)).await?.0, 409);
    let long = json!({ "revision": 4, "name": "x".repeat(201) });
    assert_eq!(client.send(Method::PUT, &label(2), Some(long)).await?.0, 400);
    assert_eq!(client.send(Method::PUT, &label(7), Some(json!({ "revision": 4 }))).await?.0, 404);
    let recipe = client.get(&format!("/jobs/{}/parts/1/recipe", client.job)).await?;
    assert_eq!(recipe["steps"], json!([{ "kind": "seal.plan" }]));
    assert_eq!(recipe["name"], "Vent cowl");
    Ok(())
}

#[tokio::test]
async fn what_cannot_be_done_is_told_with_cause_and_place() -> Done {
    let server = Server::start(&fresh_database().await?, &["--upload-limit-mb", "1", "--triangle-limit", "9000"])?;
    let client = Client::with_new_job(&server.address).await?;
    let problem = |task: &Value| task["problem"]["detail"].as_str().unwrap_or_default().to_owned();

    let cut = client.bring_in("cut.stl", stl_of(&demo::vent_cowl())?[..5000].to_vec()).await?;
    assert_eq!((cut["state"].as_str(), cut["problem"]["status"].as_u64()), (Some("failed"), Some(422)));
    assert!(problem(&cut).contains("byte 5000"), "{cut}");
    let many = client.bring_in("buoy.stl", stl_of(&demo::mooring_buoy())?).await?;
    assert!(problem(&many).contains("9000"), "{many}");
    let (status, large) = client.upload("large.stl", vec![0; 2 << 20]).await?;
    assert_eq!((status, large["type"].as_str()), (413, Some("urn:nimbet:too-large")));
    assert!(client.show().await?["parts"].as_array().unwrap().is_empty());

    client.bring_in("cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    let far = json!({ "kind": "seal.cover_rim", "style": "flat", "rims": { "picked": [{ "near": [900, 0, 7], "length": 9 }] } });
    let gone = client.ask("steps", json!({ "part": 1, "action": far })).await?;
    assert_eq!(gone["problem"]["type"], "urn:nimbet:needs-new-pick");
    assert_eq!(gone["problem"]["places"], json!([[900.0, 0.0, 7.0]]));
    let open = client.ask("releases", json!({ "part": 1, "format": "stl", "unit": "inch" })).await?;
    assert_eq!(open["problem"]["type"], "urn:nimbet:not-proved");
    assert_eq!(open["problem"]["checks"].as_array().map(Vec::len), Some(9));

    let steps = format!("/jobs/{}/steps", client.job);
    let action = json!({ "kind": "seal.plan" });
    for (body, wanted) in [
        (json!({ "revision": 1, "part": 1, "action": action }), 409),
        (json!({ "revision": 2, "part": 7, "action": action }), 404),
        (json!({ "revision": 2, "part": 1, "action": { "kind": "seal.polish" } }), 422),
    ] {
        let (status, problem) = client.send(Method::POST, &steps, Some(body)).await?;
        assert_eq!((status, problem["status"].as_u64()), (wanted, Some(wanted.into())), "{problem}");
    }
    for (path, wanted) in [("/jobs/none", 400), ("/nothing", 404)] {
        let (status, problem) = client.send(Method::GET, path, None).await?;
        assert_eq!((status, problem["status"].as_u64()), (wanted, Some(wanted.into())), "{problem}");
    }
    Ok(())
}

#[tokio::test]
async fn a_kill_in_the_middle_of_a_task_loses_no_step_and_shows_no_half_step() -> Done {
    let database = fresh_database().await?;
    let mut server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    let before = client.show().await?;

    let (_, task) = client.upload("ball.stl", stl_of(&big_ball(400))?).await?;
    client.wait(&task, |t| t["state"] == "running" && t["fraction"].as_f64() > Some(0.05)).await?;
    server.kill();

    let server = Server::start(&database, &[])?;
    let client = client.at(&server.address);
    assert_eq!(client.show().await?, before, "no half step");
    let over = client.end_of(&task).await?;
    assert_eq!(over["state"], "done", "{over}");
    let after = client.show().await?;
    assert_eq!(after["steps"].as_array().map(Vec::len), Some(2), "the step was done once");
    assert_eq!(after["revision"].as_i64(), before["revision"].as_i64().map(|r| r + 1));
    Ok(())
}

#[tokio::test]
async fn a_polite_stop_puts_running_work_back_in_the_queue() -> Done {
    let database = fresh_database().await?;
    let mut server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let (_, task) = client.upload("ball.stl", stl_of(&big_ball(400))?).await?;
    client.wait(&task, |t| t["state"] == "running").await?;
    assert!(server.stop());
    // A server that runs no tasks itself shows what was left.
    let idle = Server::start(&database, &["--task-slots", "0"])?;
    let left = client.at(&idle.address).get(&format!("/tasks/{}", task["id"])).await?;
    assert!(left["state"] == "queued" || left["state"] == "done", "{left}");
    let server = Server::start(&database, &[])?;
    assert_eq!(client.at(&server.address).end_of(&task).await?["state"], "done");
    Ok(())
}

#[tokio::test]
async fn a_cancelled_task_leaves_the_job_as_it_was() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let (_, task) = client.upload("ball.stl", stl_of(&big_ball(400))?).await?;
    client.wait(&task, |t| t["state"] == "running").await?;
    client.send(Method::DELETE, &format!("/tasks/{}", task["id"]), None).await?;
    let over = client.end_of(&task).await?;
    assert_eq!(over["state"], "cancelled", "{over}");
    assert!(client.show().await?["steps"].as_array().unwrap().is_empty());
    Ok(())
}

#[tokio::test]
async fn two_servers_share_the_queue_and_every_task_is_done_once() -> Done {
    let database = fresh_database().await?;
    let first = Server::start(&database, &[])?;
    let second = Server::start(&database, &[])?;
    let client = Client::with_new_job(&first.address).await?;
    let other = client.at(&second.address);
    let ply = ply_of(&demo::vent_cowl())?;
    let mut tasks = vec![];
    for n in 0..8 {
        let sender = if n % 2 == 0 { &client } else { &other };
        tasks.push(sender.upload(&format!("cowl {n}.ply"), ply.clone()).await?.1);
    }
    for task in &tasks {
        assert_eq!(client.end_of(task).await?["state"], "done");
    }
    let job = other.show().await?;
    assert_eq!(job["steps"].as_array().map(Vec::len), Some(8));
    assert_eq!(job["cursor"], 8);
    Ok(())
}

#[tokio::test]
async fn damage_in_storage_is_mended_from_the_ledger_and_never_worked_on() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    client.ask("steps", json!({ "part": 1, "action": { "kind": "seal.cover_rim", "style": "flat" } })).await?;
    let pool = sqlx::mysql::MySqlPool::connect(&database).await?;
    let before = client.show().await?;
    let text = |value: &Value| value.as_str().unwrap().to_owned();
    let meshes = [text(&before["steps"][0]["mesh"]), text(&before["steps"][1]["mesh"])];
    let damage = async |hash: &str| -> anyhow::Result<()> {
        let query = "SELECT data FROM blob_chunks WHERE hash = UNHEX(?) AND chunk = 0";
        let mut data: Vec<u8> = sqlx::query(query).bind(hash).fetch_one(&pool).await?.try_get(0)?;
        let middle = data.len() / 2;
        data[middle] ^= 1;
        let query = "UPDATE blob_chunks SET data = ? WHERE hash = UNHEX(?) AND chunk = 0";
        sqlx::query(query).bind(data).bind(hash).execute(&pool).await?;
        Ok(())
    };
    // Both the part and what it was made from are damaged: they are worked out anew, from the file that came in.
    for mesh in &meshes {
        damage(mesh).await?;
    }
    let drawn = client.bytes(&format!("/meshes/{}/display.glb", meshes[1])).await?;
    assert!(drawn.starts_with(b"glTF"));
    let plan = json!({ "part": 1, "action": { "kind": "seal.plan" } });
    assert_eq!(client.ask("forecasts", plan).await?["state"], "done");
    assert_eq!(client.show().await?, before);
    // With the file damaged as well there is nothing left to work from.
    for mesh in &meshes {
        damage(mesh).await?;
    }
    damage(&text(&before["steps"][0]["action"]["source"])).await?;
    let other = json!({ "part": 1, "action": { "kind": "seal.cover_rim", "style": "domed" } });
    let task = client.ask("steps", other).await?;
    assert_eq!((task["state"].as_str(), task["problem"]["status"].as_u64()), (Some("failed"), Some(500)));
    assert_eq!(client.show().await?["steps"].as_array().map(Vec::len), Some(2));
    Ok(())
}

#[tokio::test]
async fn an_examination_of_an_earlier_version_is_worked_out_anew() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    let path = format!("/meshes/{}/examination", client.show().await?["parts"][0]["mesh"].as_str().unwrap());
    let before = client.get(&path).await?;
    sqlx::query("DELETE FROM examinations").execute(&sqlx::mysql::MySqlPool::connect(&database).await?).await?;
    assert_eq!(client.get(&path).await?, before);
    assert_eq!(client.send(Method::GET, &format!("/meshes/{}/examination", "0".repeat(64)), None).await?.0, 404);
    Ok(())
}

#[tokio::test]
async fn the_front_end_was_generated_from_this_api() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let served: Value = serde_json::from_slice(&client.bytes("/openapi.json").await?)?;
    let kept: Value = serde_json::from_str(include_str!("../../../../web/openapi.json"))?;
    assert!(
        served == kept,
        "web/openapi.json is out of date: run `nimbet openapi > web/openapi.json`, then `npm run api` in web/"
    );
    Ok(())
}

/// The JSON part of a glTF binary.
fn document_of(glb: &[u8]) -> anyhow::Result<Value> {
    anyhow::ensure!(glb.starts_with(b"glTF"), "no glTF binary");
    let length = u32::from_le_bytes(glb[12..16].try_into()?) as usize;
    Ok(serde_json::from_slice(&glb[20..20 + length])?)
}

#[tokio::test]
async fn the_drawing_of_a_part_names_its_rims_and_large_ones_have_a_thinner_drawing() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    client.bring_in("ball.stl", stl_of(&big_ball(200))?).await?;
    let job = client.show().await?;
    let mesh = |part: usize| job["parts"][part]["mesh"].as_str().unwrap().to_owned();
    let document = document_of(&client.bytes(&format!("/meshes/{}/display.glb", mesh(0))).await?)?;
    let names: Vec<&str> = document["meshes"].as_array().unwrap().iter().filter_map(|m| m["name"].as_str()).collect();
    assert_eq!(names, ["surface", "rim R1", "rim R2"]);
    let surface = &document["meshes"][0]["primitives"][0];
    let corners = document["accessors"][surface["indices"].as_u64().unwrap() as usize]["count"].as_u64();
    assert_eq!(corners, job["parts"][0]["figures"]["triangles"].as_u64().map(|t| t * 3));
    let full = client.bytes(&format!("/meshes/{}/display.glb", mesh(1))).await?;
    let coarse = client.bytes(&format!("/meshes/{}/display.glb?coarse=true", mesh(1))).await?;
    assert!(coarse.len() * 2 < full.len(), "{} of {}", coarse.len(), full.len());
    assert_eq!(client.send(Method::GET, "/meshes/12/display.glb", None).await?.0, 400);

    // A cover adds surface: nothing of what came in is off, the new skin is.
    client.ask("steps", json!({ "part": 1, "action": { "kind": "seal.plan" } })).await?;
    let sealed = client.show().await?["parts"][0]["mesh"].as_str().unwrap().to_owned();
    let off = client.get(&format!("/meshes/{sealed}/deviation/{}", mesh(0))).await?;
    let figure = |key: &str| off[key].as_f64().unwrap();
    assert!(figure("largest") > 40.0 && figure("mean") > 1.0, "{off}");
    assert_eq!((figure("largest_back"), figure("mean_back")), (0.0, 0.0), "{off}");
    Ok(())
}

#[tokio::test]
async fn events_tell_a_task_from_its_queue_to_its_end() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let (_, task) = client.upload("ball.stl", stl_of(&big_ball(300))?).await?;
    let stream = client.bytes(&format!("/tasks/{}/events", task["id"])).await?;
    let told: Vec<Value> = String::from_utf8(stream)?
        .lines()
        .filter_map(|l| l.strip_prefix("data:"))
        .map(serde_json::from_str)
        .collect::<Result<_, _>>()?;
    let fractions: Vec<f64> = told.iter().filter_map(|t| t["fraction"].as_f64()).collect();
    assert!(fractions.windows(2).all(|w| w[0] <= w[1]), "progress never goes back: {fractions:?}");
    let last = told.last().unwrap();
    assert_eq!((last["state"].as_str(), last["fraction"].as_f64()), (Some("done"), Some(1.0)));
    assert_eq!(last["result"]["step"], 1);
    assert!(told.len() > 2, "it tells on the way: {told:?}");
    Ok(())
}

#[tokio::test]
async fn jobs_stand_side_by_side_and_names_are_checked() -> Done {
    let server = Server::with_demo().await?;
    let client = Client::with_new_job(&server.address).await?;
    let list = client.get("/jobs").await?;
    let names: Vec<&str> = list.as_array().unwrap().iter().filter_map(|j| j["name"].as_str()).collect();
    assert_eq!(names, ["test", "Tern Quay Fittings"], "the newest first");
    for name in ["", "   ", &"x".repeat(201)] {
        assert_eq!(client.send(Method::POST, "/jobs", Some(json!({ "name": name }))).await?.0, 400);
    }
    let catalogue = client.get("/catalogue").await?;
    assert_eq!(catalogue["materials"].as_array().map(Vec::len), Some(nimbet_trade::weigh::MATERIALS.len()));
    let unknown = json!({ "part": 1, "action": { "kind": "weigh.set_material", "material": "cheese" } });
    client.bring_in("cowl.ply", ply_of(&demo::vent_cowl())?).await?;
    assert_eq!(client.ask("steps", unknown).await?["problem"]["type"], "urn:nimbet:bad-step");
    let beyond = json!({ "revision": 2 });
    assert_eq!(client.send(Method::POST, &format!("/jobs/{}/redo", client.job), Some(beyond)).await?.0, 404);
    Ok(())
}
