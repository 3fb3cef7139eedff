//! What is asked: numbers, kills, strangers, names.

use super::*;
use crate::Done;

#[tokio::test]
async fn numbers_beyond_all_bounds_are_refused_and_what_was_poisoned_by_them_opens() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    for (size, why) in [(1e300, "10 km"), (1e12, "10 km"), (1e-9, "least"), (1.6e8, "10 km")] {
        let told = client.bring_in("block.off", block_of(size)).await?;
        assert_eq!(told["problem"]["type"], "urn:nimbet:unreadable-file", "{told}");
        assert!(told["problem"]["detail"].as_str().unwrap().contains(why), "{told}");
    }
    assert_eq!(client.bring_in("block.off", block_of(20.0)).await?["state"], "done");
    for action in [
        json!({ "kind": "shape.place", "by": [1e308, 0, 0] }),
        json!({ "kind": "shape.place", "scale": 1e308 }),
        json!({ "kind": "shape.place", "scale": 1e-9 }),
        json!({ "kind": "shape.place", "by": [0, 2e9, 0] }),
        json!({ "kind": "shape.repeat", "copies": { "row": { "count": 3, "step": [1e308, 0, 0] } } }),
        json!({ "kind": "wall.grow", "by": 1e308 }),
        json!({ "kind": "wall.hollow", "wall": 1e308 }),
    ] {
        let request = json!({ "part": 1, "action": action, "revision": client.show().await?["revision"] });
        let (status, task) = client.send(Method::POST, &format!("/jobs/{}/steps", client.job), Some(request)).await?;
        let told = if status == 202 { client.end_of(&task).await?["problem"].clone() } else { task };
        let kind = told["type"].as_str().unwrap_or_default();
        assert!(["urn:nimbet:refused", "urn:nimbet:bad-body"].contains(&kind), "{action}: {told}");
    }
    // As earlier versions kept it: figures that are no numbers.
    assert_eq!(
        client.ask("steps", json!({ "part": 1, "action": { "kind": "shape.place", "by": [1, 0, 0] } })).await?["state"],
        "done"
    );
    let pool = sqlx::mysql::MySqlPool::connect(&database).await?;
    let report: String = sqlx::query("SELECT report FROM steps WHERE number = 2").fetch_one(&pool).await?.try_get(0)?;
    let mut poisoned: Value = serde_json::from_str(&report)?;
    poisoned["after"]["area"] = Value::Null;
    poisoned["after"]["least"] = json!([null, 0.0, null]);
    sqlx::query("UPDATE steps SET report = ? WHERE number = 2").bind(poisoned.to_string()).execute(&pool).await?;
    let job = client.show().await?;
    assert_eq!(job["steps"][1]["state"]["is"], "stopped", "{}", job["steps"][1]["state"]);
    run_on(&database, &["reclaim", "--days", "0"])?;
    let undo = json!({ "revision": job["revision"] });
    let (status, undone) = client.send(Method::POST, &format!("/jobs/{}/undo", client.job), Some(undo)).await?;
    assert_eq!((status, undone["steps"].as_array().map(Vec::len)), (200, Some(1)));
    let done = client.ask("steps", json!({ "part": 1, "action": { "kind": "shape.place", "by": [2, 0, 0] } })).await?;
    assert_eq!(done["state"], "done", "{done}");
    Ok(())
}

/// What a filled database of an earlier version must show after an upgrade.
async fn assert_chest(address: &str, steps: usize) -> Done {
    let jobs: Value = reqwest::get(format!("{address}/api/v1/jobs")).await?.json().await?;
    assert_eq!(jobs.as_array().map(Vec::len), Some(1), "{jobs}");
    let client = Client::of(address, jobs[0]["id"].as_str().unwrap());
    let job = client.show().await?;
    assert_eq!((&job["name"], job["steps"].as_array().map(Vec::len)), (&json!("Harbour chest"), Some(steps)));
    assert_eq!(job["parts"][0]["figures"]["state"], "sealed");
    let undo = json!({ "revision": job["revision"] });
    assert_eq!(client.send(Method::POST, &format!("/jobs/{}/undo", client.job), Some(undo)).await?.0, 200);
    let redo = json!({ "revision": client.show().await?["revision"] });
    let (status, again) = client.send(Method::POST, &format!("/jobs/{}/redo", client.job), Some(redo)).await?;
    assert_eq!((status, again["steps"].as_array().map(Vec::len)), (200, Some(steps)));
    let moved = client.ask("steps", json!({ "part": 1, "action": { "kind": "shape.place", "by": [0, 5, 0] } })).await?;
    assert_eq!(moved["state"], "done", "{moved}");
    Ok(())
}

/// Starts on a database killed after each of some moments; the last start goes on.
async fn started_after_kills(database: &str, arguments: &[&str], moments: &[u64]) -> anyhow::Result<Server> {
    let serve = [&["serve", "--listen", "127.0.0.1:0", "--task-slots", "0"], arguments].concat();
    for moment in moments {
        killed_after(database, &serve, Duration::from_millis(*moment))?;
    }
    Server::start(database, arguments)
}

#[tokio::test]
async fn a_first_start_and_an_upgrade_survive_a_kill_at_any_moment() -> Done {
    // Most of these moments lie within the migrations (some 40 to 400 ms), the later ones within the making of the demo job.
    let moments: Vec<u64> = (0..50).map(|n| 20 + n * 37 % 700).collect();
    for (n, moments) in moments.chunks(10).enumerate() {
        let database = fresh_database().await?;
        match n {
            0 => {
                let server = started_after_kills(&database, &["--demo"], moments).await?;
                let jobs: Value = reqwest::get(format!("{}/api/v1/jobs", server.address)).await?.json().await?;
                assert_eq!(jobs.as_array().map(Vec::len), Some(1), "one demo job, whole: {jobs}");
                let client = Client::of(&server.address, jobs[0]["id"].as_str().unwrap());
                assert_eq!(client.show().await?["parts"].as_array().map(Vec::len), Some(demo::parts().len()));
            }
            1 | 2 => {
                fill_database(&database, FIRST).await?;
                assert_chest(&started_after_kills(&database, &[], moments).await?.address, 2).await?;
            }
            _ => {
                fill_database(&database, SIXTH).await?;
                assert_chest(&started_after_kills(&database, &[], moments).await?.address, 3).await?;
            }
        }
    }
    Ok(())
}

#[tokio::test]
async fn what_a_killed_earlier_version_left_half_done_is_gone_on_with() -> Done {
    // Killed in its fourth migration, after the column that an earlier statement of it reads was taken away.
    let database = fresh_database().await?;
    fill_database(&database, FIRST).await?;
    drop(Server::start(&database, &[])?);
    let pool = sqlx::mysql::MySqlPool::connect(&database).await?;
    for query in [
        "INSERT IGNORE INTO _sqlx_migrations VALUES (4, 'lines', NOW(), FALSE, '', 0)",
        "UPDATE _sqlx_migrations SET success = FALSE WHERE version = 4",
        "DELETE FROM schema_stages WHERE version = 4",
    ] {
        sqlx::query(query).execute(&pool).await?;
    }
    assert_chest(&Server::start(&database, &[])?.address, 2).await?;
    // What a later version has upgraded is left alone, with words for its operator.
    sqlx::query("INSERT INTO schema_stages VALUES (900, 1, TRUE)").execute(&pool).await?;
    let told = refusal_of(&database, &["serve", "--listen", "127.0.0.1:0"])?;
    assert!(told.contains("later version of Nimbet") && told.contains("backup"), "{told}");
    Ok(())
}

#[tokio::test]
async fn only_this_page_may_ask_and_every_answer_says_so() -> Done {
    let server = Server::start(&fresh_database().await?, &["--host", "bench.quay.example"])?;
    let http = reqwest::Client::builder().redirect(reqwest::redirect::Policy::none()).build()?;
    let at = |path: &str| format!("{}{path}", server.address);
    let status = |request: reqwest::RequestBuilder| async { anyhow::Ok(request.send().await?.status()) };
    // Names that lead here from elsewhere.
    for (host, answer) in [
        ("evil.example", StatusCode::MISDIRECTED_REQUEST),
        ("127.0.0.1.evil.example:80", StatusCode::MISDIRECTED_REQUEST),
        ("localhost:1234", StatusCode::OK),
        ("bench.quay.example", StatusCode::OK),
    ] {
        assert_eq!(status(http.get(at("/api/v1/jobs")).header("host", host)).await?, answer, "{host}");
    }
    // Changes from pages of other sites, with a body, as a form, and without one.
    let client = Client::with_new_job(&server.address).await?;
    let (jobs, job) = (at("/api/v1/jobs"), at(&format!("/api/v1/jobs/{}", client.job)));
    let asks = |name: &'static str, value: &'static str| {
        let form = reqwest::multipart::Form::new().text("unit", "millimetre");
        [
            http.post(&jobs).header("content-type", "application/json").body("{\"name\":\"theirs\"}"),
            http.post(format!("{job}/files")).multipart(form),
            http.delete(&job),
            http.get(&jobs),
        ]
        .map(|request| request.header(name, value))
    };
    for (name, value) in [("origin", "http://evil.example"), ("origin", "null"), ("sec-fetch-site", "cross-site")] {
        for request in asks(name, value) {
            assert_eq!(status(request).await?, StatusCode::FORBIDDEN, "{name}: {value}");
        }
    }
    assert_eq!(client.get("/jobs").await?.as_array().map(Vec::len), Some(1), "nothing was done");
    // Unknown addresses are no pages; every answer has its headers.
    for (path, answer) in [
        ("/", 200),
        ("/api/v1/jobs", 200),
        ("/api/v1/nothing", 404),
        ("/nothing", 404),
        ("/etc/passwd", 404),
        ("/..%2f..%2fCargo.toml", 404),
        ("/health/live", 200),
        ("/health/ready", 200),
        ("/metrics", 200),
        ("/api/v1/jobs/not-a-job", 400),
    ] {
        let told = http.get(at(path)).send().await?;
        assert_eq!(told.status(), answer, "{path}");
        for (header, part) in [
            ("content-security-policy", "frame-ancestors 'none'"),
            ("x-content-type-options", "nosniff"),
            ("referrer-policy", "no-referrer"),
            ("permissions-policy", "camera=()"),
        ] {
            let value = told.headers().get(header).unwrap_or_else(|| panic!("{path}: no {header}")).to_str()?;
            assert!(value.contains(part), "{path}: {header}: {value}");
        }
        assert!(!told.headers()["content-security-policy"].to_str()?.contains("script-src 'unsafe"), "{path}");
    }
    let metrics = http.get(at("/metrics")).send().await?.text().await?;
    assert!(
        metrics.contains("nimbet_workers 2") && metrics.contains("nimbet_requests_total{status=\"4xx\"}"),
        "{metrics}"
    );
    Ok(())
}

#[tokio::test]
async fn off_loopback_only_who_has_the_token_may_ask() -> Done {
    let database = fresh_database().await?;
    let told = refusal_of(&database, &["serve", "--listen", "0.0.0.0:0"])?;
    assert!(told.contains("--token"), "{told}");
    assert!(refusal_of(&database, &["serve", "--listen", "0.0.0.0:0", "--token", "short"])?.contains("12"));
    let server = Server::start(&database, &["--token", "quay-lantern-0417"])?;
    let http = reqwest::Client::builder().redirect(reqwest::redirect::Policy::none()).build()?;
    let get = |path: &str| http.get(format!("{}{path}", server.address));
    for path in ["/", "/api/v1/jobs", "/metrics", "/?token=quay-lantern-0418"] {
        assert_eq!(get(path).send().await?.status(), 401, "{path}");
    }
    assert_eq!(get("/health/live").send().await?.status(), 200);
    assert_eq!(get("/api/v1/jobs").bearer_auth("quay-lantern-0417").send().await?.status(), 200);
    let opened = get("/?token=quay-lantern-0417").send().await?;
    assert_eq!((opened.status().as_u16(), opened.headers()["location"].to_str()?), (303, "/"));
    let cookie = opened.headers()["set-cookie"].to_str()?;
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), "{cookie}");
    let kept = cookie.split(';').next().unwrap();
    assert_eq!(get("/api/v1/jobs").header("cookie", kept).send().await?.status(), 200);
    Ok(())
}

#[tokio::test]
async fn names_are_plain_and_deleted_jobs_come_back() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    for name in ["a\u{202E}b", "bell\u{7}", "zero\u{200B}width", "two\nlines"] {
        let (status, told) = client.send(Method::POST, "/jobs", Some(json!({ "name": name }))).await?;
        assert_eq!(status, 400, "{told}");
        let step = json!({ "part": 1, "action": { "kind": "weigh.set_material", "material": "bronze-tin-10" },
            "revision": 1, "who": name });
        assert_eq!(client.send(Method::POST, &format!("/jobs/{}/steps", client.job), Some(step)).await?.0 / 100, 4);
    }
    client.bring_in("=cmd\u{202E}().off", block_of(20.0)).await?;
    assert_eq!(client.show().await?["parts"][0]["name"], "=cmd()");
    let bill = String::from_utf8(client.bytes(&format!("/jobs/{}/bill.csv", client.job)).await?)?;
    assert!(bill.contains("\"'=cmd()\""), "{bill}");

    let job = format!("/jobs/{}", client.job);
    assert_eq!(client.send(Method::DELETE, &job, None).await?.0, 200);
    assert_eq!(client.send(Method::GET, &job, None).await?.0, 404);
    assert_eq!(client.get("/jobs").await?, json!([]));
    let undo = client.send(Method::POST, &format!("{job}/undo"), Some(json!({ "revision": 2 }))).await?;
    assert_eq!(undo.0, 404, "nothing is changed in what is deleted");
    assert_eq!(client.get("/deleted-jobs").await?[0]["name"], "test");
    let back = client.send(Method::POST, &format!("/deleted-jobs/{}/bring-back", client.job), None).await?;
    assert_eq!((back.0, &back.1["parts"][0]["name"]), (200, &json!("=cmd()")));
    assert_eq!(client.show().await?["steps"].as_array().map(Vec::len), Some(1));
    Ok(())
}
