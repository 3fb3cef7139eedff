//! Changing one's mind over the API: edits of earlier steps, several people, copies, and what survives a kill.

use crate::Done;
use std::time::Duration;

use nimbet_e2e::*;
use nimbet_kernel::{Point, shapes};
use reqwest::Method;
use serde_json::{Value, json};

fn body(size: f64) -> Value {
    json!({ "kind": "shape.body", "body": { "block": { "size": [size, size, size] } }, "at": [9.0, 9.0, 9.0] })
}

/// A job with a block, a body, the body taken away from the block, and the block moved; steps 1, 2, 4 and 5.
async fn a_cut_block(server: &Server) -> anyhow::Result<Client> {
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.ply", ply_of(&shapes::block(Point::ZERO, Point::splat(10.0)))?).await?;
    let steps = [
        body(2.0),
        json!({ "kind": "shape.difference", "with": [3] }),
        json!({ "kind": "shape.place", "by": [1.0, 0.0, 0.0] }),
    ];
    for action in steps {
        let done = client.ask("steps", json!({ "part": 1, "action": action, "who": "Ines" })).await?;
        assert_eq!(done["state"], "done", "{done}");
    }
    Ok(client)
}

fn numbers(job: &Value) -> Vec<u64> {
    job["steps"].as_array().unwrap().iter().map(|s| s["number"].as_u64().unwrap()).collect()
}

#[tokio::test]
async fn a_step_is_done_over_what_depends_on_it_follows_and_undo_takes_it_back() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = a_cut_block(&server).await?;
    let first = client.show().await?;
    assert_eq!((numbers(&first), &first["steps"][1]["needed_by"]), (vec![1, 2, 4, 5], &json!([4])));
    assert_eq!(first["steps"][3]["who"], "Ines");
    assert!(first["steps"][3]["at"].as_str().unwrap().ends_with('Z'));

    let replace = json!({ "edit": { "edit": "replace", "step": 2, "action": body(4.0) }, "who": "Joel" });
    let told = client.ask("edit-forecasts", replace.clone()).await?;
    let later = told["result"]["later"].as_array().unwrap_or_else(|| panic!("{told}"));
    let steps: Vec<_> = later.iter().map(|l| (l["step"].as_u64(), l["state"]["is"].as_str())).collect();
    assert_eq!(steps, [(Some(4), Some("done")), (Some(5), Some("done"))]);
    assert!(told["result"]["report"]["made"][0]["figures"]["volume"].as_f64().unwrap() > 63.9);
    assert_eq!(client.show().await?, first, "a forecast changes nothing");

    assert_eq!(client.ask("edits", replace).await?["state"], "done");
    let edited = client.show().await?;
    assert_eq!(edited["undo"], "Step 2 changed: Add a block");
    assert_eq!((edited["steps"][1]["who"].as_str(), edited["steps"][0]["who"].as_str()), (Some("Joel"), None));
    let volume = |job: &Value| job["parts"][0]["figures"]["volume"].as_f64().unwrap();
    assert!((volume(&first) - 992.0).abs() < 1e-6 && (volume(&edited) - 973.0).abs() < 1e-6, "{}", volume(&edited));

    let stale = json!({ "revision": first["revision"], "edit": { "edit": "park", "steps": [5] } });
    let (status, problem) = client.send(Method::POST, &format!("/jobs/{}/edits", client.job), Some(stale)).await?;
    assert_eq!((status, problem["type"].as_str()), (409, Some("urn:nimbet:stale-revision")));
    let needed = json!({ "revision": edited["revision"], "edit": { "edit": "remove", "steps": [2] } });
    let (status, problem) = client.send(Method::POST, &format!("/jobs/{}/edits", client.job), Some(needed)).await?;
    assert_eq!((status, problem["type"].as_str()), (409, Some("urn:nimbet:needed")));

    let undo = json!({ "revision": edited["revision"] });
    let (_, undone) = client.send(Method::POST, &format!("/jobs/{}/undo", client.job), Some(undo)).await?;
    assert_eq!((&undone["steps"], &undone["parts"]), (&first["steps"], &first["parts"]));

    // A copy stands on its own.
    let (status, copy) =
        client.send(Method::POST, &format!("/jobs/{}/copies", client.job), Some(json!({ "name": "Variant" }))).await?;
    assert_eq!((status, &copy["parts"], numbers(&copy)), (201, &first["parts"], vec![1, 2, 4, 5]));
    Ok(())
}

#[tokio::test]
async fn a_step_on_a_part_that_an_earlier_step_leaves_unfinished_is_refused() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = a_cut_block(&server).await?;
    // The body misses the block now, so there is nothing to take away: the cut passes.
    let mut far = body(2.0);
    far["at"] = json!([90.0, 0.0, 0.0]);
    client.ask("edits", json!({ "edit": { "edit": "replace", "step": 2, "action": far } })).await?;
    let job = client.show().await?;
    assert_eq!((&job["steps"][2]["state"]["is"], &job["steps"][3]["state"]["is"]), (&json!("idle"), &json!("done")));
    // It swallows the block: the cut is stopped, and what comes after it waits.
    client.ask("edits", json!({ "edit": { "edit": "replace", "step": 2, "action": body(90.0) } })).await?;
    let job = client.show().await?;
    assert_eq!(job["steps"][2]["state"]["is"], "stopped", "{}", job["steps"][2]["state"]);
    assert_eq!(job["steps"][3]["state"], json!({ "is": "waiting", "on": 4 }));
    let place = json!({ "revision": job["revision"], "part": 1, "action": { "kind": "seal.plan" } });
    let (status, problem) = client.send(Method::POST, &format!("/jobs/{}/steps", client.job), Some(place)).await?;
    assert_eq!((status, problem["type"].as_str()), (409, Some("urn:nimbet:after-stopped")), "{problem}");
    let release = json!({ "revision": job["revision"], "part": 1, "format": "stl", "unit": "millimetre" });
    let (status, _) = client.send(Method::POST, &format!("/jobs/{}/releases", client.job), Some(release)).await?;
    assert_eq!((status, job["parts"][0]["stopped"].as_u64()), (409, Some(4)), "what is unfinished is not released");
    client.ask("edits", json!({ "edit": { "edit": "park", "steps": [4] } })).await?;
    let job = client.show().await?;
    assert_eq!(
        (&job["steps"][3]["state"]["is"], job["parts"][0]["figures"]["volume"].as_f64()),
        (&json!("done"), Some(1000.0))
    );
    Ok(())
}

#[tokio::test]
async fn a_recipe_is_done_to_files_as_they_come_in_and_ends_where_a_step_cannot_be_done() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    // A body is made and taken away: the recipe calls it part 2, whatever it is in the job.
    let steps = [
        json!({ "kind": "seal.plan" }),
        body(4.0),
        json!({ "kind": "shape.difference", "with": [2] }),
        json!({ "kind": "weigh.set_material", "material": "bronze-tin-10" }),
    ];
    let recipe = json!({ "nimbet": 1, "steps": steps }).to_string();
    let fields = [("recipe", recipe), ("who", "Ines".to_owned())];
    let blocks = [(0.0, 10.0, "large.ply"), (0.0, 6.0, "clear of it.ply"), (8.0, 1.0, "inside it.ply")];
    let mut tasks = vec![];
    for (at, size, name) in blocks {
        let block = shapes::block(Point::splat(at), Point::splat(size));
        tasks.push(client.upload_with(name, ply_of(&block)?, &fields).await?.1);
    }
    for task in &tasks {
        assert_eq!(client.end_of(task).await?["state"], "done");
    }
    let job = client.show().await?;
    let states = |name: &str| -> Vec<&str> {
        let part = job["steps"].as_array().unwrap().iter().find(|s| s["title"] == format!("Bring in {name}")).unwrap();
        let own = job["steps"].as_array().unwrap().iter().filter(|s| s["part"] == part["part"]);
        own.map(|s| s["state"]["is"].as_str().unwrap()).collect()
    };
    // Sealed already, the plan has nothing to do; the second block lies clear of the body.
    assert_eq!(states("large.ply"), ["done", "idle", "done", "done", "done"]);
    assert_eq!(states("clear of it.ply"), ["done", "idle", "done", "idle", "done"]);
    // Of the third nothing would be left: the recipe ends there.
    assert_eq!(states("inside it.ply"), ["done", "idle", "done", "stopped"]);
    let (status, problem) = client.upload_with("a.ply", vec![], &[("recipe", "{}".to_owned())]).await?;
    assert_eq!((status, problem["type"].as_str()), (400, Some("urn:nimbet:bad-request")));
    Ok(())
}

#[tokio::test]
async fn space_is_taken_back_from_what_no_job_can_reach_and_from_nothing_else() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &[])?;
    let client = a_cut_block(&server).await?;
    // Undone and edited branches can be reached by undo and redo; a forecast that was never applied cannot.
    client.ask("edits", json!({ "edit": { "edit": "replace", "step": 2, "action": body(4.0) } })).await?;
    let undo = json!({ "revision": client.show().await?["revision"] });
    client.send(Method::POST, &format!("/jobs/{}/undo", client.job), Some(undo)).await?;
    let saw = json!({ "kind": "shape.saw", "by": { "plane": { "at": [5.0, 0.0, 0.0], "normal": [1.0, 0.0, 0.0] } }, "keep": "back" });
    let forecast = client.ask("forecasts", json!({ "part": 1, "action": saw })).await?;
    let never_applied = format!("/meshes/{}/display.glb", forecast["result"]["mesh"].as_str().unwrap());
    assert!(run_on(&database, &["reclaim"])?.starts_with("0 meshes"), "nothing is a week old");
    assert!(run_on(&database, &["reclaim", "--days", "0"])?.starts_with("1 mesh or file"));
    assert_eq!(client.send(Method::GET, &never_applied, None).await?.0, 404);
    let redo = json!({ "revision": client.show().await?["revision"] });
    client.send(Method::POST, &format!("/jobs/{}/redo", client.job), Some(redo)).await?;
    for step in client.show().await?["steps"].as_array().unwrap() {
        client.bytes(&format!("/meshes/{}/display.glb", step["mesh"].as_str().unwrap())).await?;
    }
    Ok(())
}

#[tokio::test]
async fn two_people_see_each_others_changes_within_a_second() -> Done {
    let database = fresh_database().await?;
    let (mine, other) = (Server::start(&database, &[])?, Server::start(&database, &[])?);
    let client = Client::with_new_job(&mine.address).await?;
    let url = format!("{}/api/v1/jobs/{}/events", other.address, client.job);
    let mut events = reqwest::get(url).await?.error_for_status()?;
    let next = async |events: &mut reqwest::Response| -> anyhow::Result<String> {
        let chunk = tokio::time::timeout(Duration::from_secs(20), events.chunk()).await??;
        Ok(String::from_utf8_lossy(&chunk.unwrap()).into_owned())
    };
    assert!(next(&mut events).await?.contains(r#"{"revision":1,"setup_revision":1}"#));
    let path = format!("/jobs/{}/settings", client.job);
    client.send(Method::PUT, &path, Some(json!({ "setup_revision": 1, "setup": { "chord": 0.05 } }))).await?;
    let begin = std::time::Instant::now();
    assert!(next(&mut events).await?.contains(r#""setup_revision":2}"#));
    println!("told after {:?}", begin.elapsed());
    Ok(())
}

#[tokio::test]
async fn kills_at_any_moment_of_an_edit_lose_nothing_and_end_as_if_undisturbed() -> Done {
    let database = fresh_database().await?;
    let mut server = Server::start(&database, &[])?;
    let mut client = Client::with_new_job(&server.address).await?;
    client.bring_in("ball.stl", stl_of(&big_ball(60))?).await?;
    let scale = |factor: f64| json!({ "kind": "shape.place", "scale": factor });
    for _ in 0..3 {
        client.ask("steps", json!({ "part": 1, "action": scale(1.1) })).await?;
    }
    // Undisturbed, in a copy.
    let copy =
        client.send(Method::POST, &format!("/jobs/{}/copies", client.job), Some(json!({ "name": "calm" }))).await?.1;
    for (factor, after) in [(0.9, 0), (0.8, 60), (0.7, 250)] {
        let edit = json!({ "edit": "replace", "step": 2, "action": scale(factor) });
        let request = json!({ "revision": client.show().await?["revision"], "edit": edit });
        let (_, task) = client.send(Method::POST, &format!("/jobs/{}/edits", client.job), Some(request)).await?;
        tokio::time::sleep(Duration::from_millis(after)).await;
        server.kill();
        server = Server::start(&database, &[])?;
        client = client.at(&server.address);
        let over = client.end_of(&task).await?;
        assert_eq!(over["state"], "done", "{over}");
        let mut calm = client.at(&server.address);
        calm.job = copy["id"].as_str().unwrap().to_owned();
        let done = calm.ask("edits", json!({ "edit": edit })).await?;
        assert_eq!(done["state"], "done", "{done}");
        let hashes =
            |job: &Value| job["steps"].as_array().unwrap().iter().map(|s| s["mesh"].clone()).collect::<Vec<_>>();
        assert_eq!(hashes(&client.show().await?), hashes(&calm.show().await?), "killed after {after} ms");
    }
    Ok(())
}

#[tokio::test]
async fn a_database_killed_in_the_middle_of_an_edit_loses_no_finished_step() -> Done {
    let home = tempfile::tempdir()?;
    let folder = home.path().join("data");
    let mut database = OwnDatabase::start(&folder)?;
    let mut server = Server::start(&database.url, &[])?;
    let mut client = Client::with_new_job(&server.address).await?;
    client.bring_in("ball.stl", stl_of(&big_ball(60))?).await?;
    let scale = |factor: f64| json!({ "kind": "shape.place", "scale": factor });
    for _ in 0..3 {
        client.ask("steps", json!({ "part": 1, "action": scale(1.1) })).await?;
    }
    let hashes = |job: &Value| job["steps"].as_array().unwrap().iter().map(|s| s["mesh"].clone()).collect::<Vec<_>>();
    let copies = format!("/jobs/{}/copies", client.job);
    let copy = client.send(Method::POST, &copies, Some(json!({ "name": "calm" }))).await?.1;
    for (factor, after) in [(0.9, 0), (0.8, 150)] {
        let edit = json!({ "edit": "replace", "step": 2, "action": scale(factor) });
        let request = json!({ "revision": client.show().await?["revision"], "edit": edit });
        let (_, task) = client.send(Method::POST, &format!("/jobs/{}/edits", client.job), Some(request)).await?;
        tokio::time::sleep(Duration::from_millis(after)).await;
        database.kill()?;
        server.kill();
        database = OwnDatabase::start(&folder)?;
        server = Server::start(&database.url, &[])?;
        client = client.at(&server.address);
        let over = client.end_of(&task).await?;
        assert_eq!(over["state"], "done", "{over}");
        let mut calm = client.at(&server.address);
        calm.job = copy["id"].as_str().unwrap().to_owned();
        assert_eq!(calm.ask("edits", json!({ "edit": edit })).await?["state"], "done");
        assert_eq!(hashes(&client.show().await?), hashes(&calm.show().await?), "killed after {after} ms");
    }
    Ok(())
}
