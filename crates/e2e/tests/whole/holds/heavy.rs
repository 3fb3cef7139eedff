//! Heavy work, lost databases, slow senders.

use super::*;
use crate::Done;

#[tokio::test]
async fn tasks_that_take_too_much_or_crash_fail_alone() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &["--task-memory-mb", "400", "--task-seconds", "60"])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    // Two that need more memory than there is, and a small one behind them.
    let large = stl_of(&big_ball(900))?;
    let (_, one) = client.upload("large.stl", large.clone()).await?;
    let (_, two) = client.upload("large again.stl", large).await?;
    let revision = client.show().await?["revision"].clone();
    let small = json!({ "revision": revision, "part": 1, "action": { "kind": "shape.place", "by": [0, 0, 1] } });
    let begin = Instant::now();
    let (_, small) = client.send(Method::POST, &format!("/jobs/{}/forecasts", client.job), Some(small)).await?;
    assert_eq!(client.end_of(&small).await?["state"], "done");
    // docs/benchmarks.md says how long it was; a machine that is busy otherwise is let take longer.
    println!("the small one behind two large ones: {:?}", begin.elapsed());
    assert!(begin.elapsed() < Duration::from_secs(20), "{:?}", begin.elapsed());
    for task in [one, two] {
        let over = client.end_of(&task).await?;
        assert_eq!(over["problem"]["type"], "urn:nimbet:too-much-memory", "{over}");
        assert!(over["problem"]["detail"].as_str().unwrap().contains("400 MB"), "{over}");
    }
    // A worker that is killed from outside: its task is begun once more, at once; killed again it is given up.
    let middle = stl_of(&big_ball(300))?;
    for (kills, ends) in [(1, "done"), (2, "failed")] {
        let (_, task) = client.upload("middle.stl", middle.clone()).await?;
        for _ in 0..kills {
            client.wait(&task, |t| t["state"] == "running" && t["fraction"].as_f64() > Some(0.02)).await?;
            for worker in server.kept("task-process")? {
                std::process::Command::new("kill").args(["-KILL", &worker.to_string()]).status()?;
            }
            client.wait(&task, |t| t["state"] != "running" || t["fraction"].as_f64() < Some(0.02)).await?;
        }
        let over = client.end_of(&task).await?;
        assert_eq!(over["state"], ends, "{over}");
    }
    assert!(client.show().await?["parts"].as_array().map(Vec::len) == Some(2));
    Ok(())
}

#[tokio::test]
async fn what_is_worked_out_at_the_desk_takes_nothing_else_down() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let block = client.bring_in("block.off", block_of(20.0)).await?;
    assert_eq!(block["state"], "done");
    for (kills, status) in [(1, 200), (2, 500)] {
        // What is measured once is kept, so each time it is another.
        client.bring_in("ball.stl", stl_of(&big_ball(400 + kills))?).await?;
        let mesh = client.show().await?["parts"][kills]["mesh"].as_str().unwrap().to_owned();
        let walls = format!("{}/api/v1/meshes/{mesh}/wall/display.glb", server.address);
        let name = format!("walls {kills}");
        let ask = reqwest::Client::new().get(walls).header("nimbet-watch", &name).send();
        let waiting = tokio::spawn(ask);
        for _ in 0..kills {
            let path = format!("/watch/{name}");
            while client.get(&path).await?["fraction"].as_f64() < Some(0.01) {
                assert!(!waiting.is_finished(), "it was answered before the desk was ended");
                tokio::time::sleep(Duration::from_millis(20)).await;
            }
            for desk in server.kept("desk-process")? {
                std::process::Command::new("kill").args(["-KILL", &desk.to_string()]).status()?;
            }
            // The job is there all the while.
            assert_eq!(client.show().await?["parts"][kills]["mesh"], mesh);
        }
        assert_eq!(waiting.await??.status(), status);
    }
    // One that needs more memory than there is ends with the desk; others are answered by the next one.
    let narrow = Server::start(&database, &["--task-memory-mb", "100"])?;
    let parts = client.show().await?["parts"].clone();
    let [large, small] = [&parts[1]["mesh"], &parts[0]["mesh"]].map(|m| m.as_str().unwrap().to_owned());
    let walls = |mesh: &str| reqwest::get(format!("{}/api/v1/meshes/{mesh}/wall/display.glb", narrow.address));
    let over = walls(&large).await?;
    assert_eq!(over.status(), 422);
    assert_eq!(over.json::<Value>().await?["type"], "urn:nimbet:too-much-memory");
    assert_eq!(walls(&small).await?.status(), 200);
    Ok(())
}

#[tokio::test]
async fn a_cancelled_task_frees_its_place_and_a_busy_server_ends_at_once() -> Done {
    let database = fresh_database().await?;
    let mut server = Server::start(&database, &["--task-slots", "1"])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    let large = stl_of(&big_ball(700))?;
    for pause in [40, 400, 900] {
        let (_, task) = client.upload("large.stl", large.clone()).await?;
        client.wait(&task, |t| t["state"] == "running").await?;
        tokio::time::sleep(Duration::from_millis(pause)).await;
        client.send(Method::DELETE, &format!("/tasks/{}", task["id"]), None).await?;
        let small = json!({ "part": 1, "action": { "kind": "shape.place", "by": [0, 0, pause] } });
        let begin = Instant::now();
        assert_eq!(client.ask("forecasts", small).await?["state"], "done");
        assert_eq!(client.end_of(&task).await?["state"], "cancelled");
        // Measured below 0.6 s; a machine that is busy otherwise is let take longer.
        assert!(begin.elapsed() < Duration::from_secs(10), "{:?}", begin.elapsed());
    }
    let (_, task) = client.upload("large.stl", large).await?;
    client.wait(&task, |t| t["state"] == "running" && t["fraction"].as_f64() > Some(0.02)).await?;
    let begin = Instant::now();
    assert!(server.stop());
    assert!(begin.elapsed() < Duration::from_secs(10), "{:?}", begin.elapsed());
    let idle = Server::start(&database, &["--task-slots", "0"])?;
    assert_eq!(client.at(&idle.address).get(&format!("/tasks/{}", task["id"])).await?["state"], "queued");
    Ok(())
}

#[tokio::test]
async fn a_database_that_stops_dies_or_comes_back_is_told_and_used_again() -> Done {
    let home = tempfile::tempdir()?;
    let database = OwnDatabase::start(&home.path().join("data"))?;
    let server = Server::start(&database.url, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    let before = client.show().await?;
    let away = || async {
        let (status, told) = client.send(Method::GET, "/jobs", None).await?;
        anyhow::Ok(status == 503 && told["type"] == "urn:nimbet:database-away")
    };
    for signal in ["-STOP", "-KILL"] {
        database.signal(signal)?;
        let begin = Instant::now();
        let mut seen = away().await?;
        while !seen && begin.elapsed() < Duration::from_secs(20) {
            // A killed database may be back before anybody asks.
            if signal == "-KILL" && client.send(Method::GET, "/jobs", None).await?.0 == 200 {
                break;
            }
            seen = away().await?;
        }
        if signal == "-STOP" {
            assert!(seen, "a frozen database is told");
            let begin = Instant::now();
            assert!(away().await? && begin.elapsed() < Duration::from_secs(2), "at once, once it is known");
            assert_eq!(reqwest::get(format!("{}/health/ready", server.address)).await?.status(), 503);
            assert_eq!(reqwest::get(format!("{}/health/live", server.address)).await?.status(), 200);
            database.signal("-CONT")?;
        }
        let begin = Instant::now();
        while client.send(Method::GET, "/jobs", None).await?.0 != 200 {
            assert!(begin.elapsed() < Duration::from_secs(60), "it is used again");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        assert_eq!(client.show().await?, before);
        let small = json!({ "part": 1, "action": { "kind": "shape.place", "by": [0, 0, 1] } });
        assert_eq!(client.ask("forecasts", small).await?["state"], "done", "workers use it again, too");
    }
    Ok(())
}

#[tokio::test]
async fn files_flow_through_and_slow_or_endless_senders_are_dropped() -> Done {
    let server = Server::start(&fresh_database().await?, &["--upload-limit-mb", "160"])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    let before = Server::peak_memory(server.process())?;
    // As large as may be: it goes into the database chunk by chunk, and only a worker reads it.
    let told = client.bring_in("zeros.stl", vec![0; 150 << 20]).await?;
    assert_eq!(told["state"], "failed", "{told}");
    let after = Server::peak_memory(server.process())?;
    assert!(after < before + 60, "{before} MB, then {after} MB");
    assert_eq!(client.upload("zeros.stl", vec![0; 161 << 20]).await?.0, 413);
    // What is asked with a few words takes no more of them; a step may say more.
    let long = |bytes: usize| json!({ "name": "x".repeat(bytes) });
    for (path, bytes, status) in [("/jobs", 3 << 20, 413), ("/jobs", 100_000, 413), ("/jobs", 1000, 400)] {
        assert_eq!(client.send(Method::POST, path, Some(long(bytes))).await?.0, status, "{path} {bytes}");
    }
    let outline: Vec<[f64; 2]> = (0..9000).map(|n| [f64::from(n).sin() * 9.0, f64::from(n).cos() * 9.0]).collect();
    let step = |more: usize| json!({ "revision": 1, "part": 1, "action": { "kind": "no.such", "outline": outline, "more": "x".repeat(more) } });
    let forecast = format!("/jobs/{}/forecasts", client.job);
    assert_eq!(client.send(Method::POST, &forecast, Some(step(0))).await?.0, 422);
    assert_eq!(client.send(Method::POST, &forecast, Some(step(2 << 20))).await?.0, 413);
    // Who listens only when they have said everything is told, too.
    let place = server.address.strip_prefix("http://").unwrap();
    let much = vec![b' '; 30 << 20];
    let head = "POST /api/v1/jobs HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\nContent-Type: application/json";
    let mut listens_late = std::net::TcpStream::connect(place)?;
    write!(listens_late, "{head}\r\nContent-Length: {}\r\n\r\n", much.len())?;
    listens_late.write_all(&much)?;
    let mut told = String::new();
    listens_late.read_to_string(&mut told)?;
    assert!(told.starts_with("HTTP/1.1 413") && told.contains("urn:nimbet:too-large"), "{told}");
    // Who never says what they want is dropped; others are answered meanwhile.
    let mut slow = std::net::TcpStream::connect(place)?;
    slow.write_all(b"GET /api/v1/jobs HTTP/1.1\r\nHost: localhost\r\n")?;
    slow.set_read_timeout(Some(Duration::from_secs(60)))?;
    assert_eq!(client.get("/jobs").await?.as_array().map(Vec::len), Some(1));
    let mut rest = Vec::new();
    assert!(slow.read_to_end(&mut rest).is_ok(), "the connection ends");
    assert!(!rest.starts_with(b"HTTP/1.1 200"));
    Ok(())
}

#[tokio::test]
async fn a_backup_is_restored() -> Done {
    let database = fresh_database().await?;
    let server = Server::start(&database, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    client.ask("steps", json!({ "part": 1, "action": { "kind": "shape.place", "by": [0, 0, 1] } })).await?;
    let before = client.show().await?;
    // As docs/operate.md has it.
    let (access, name) = database.strip_prefix("mysql://").unwrap().rsplit_once('/').unwrap();
    let (user, place) = access.rsplit_once('@').unwrap();
    let ((user, password), (host, port)) = (user.split_once(':').unwrap(), place.split_once(':').unwrap());
    let run = |program: &str, more: &[&str]| {
        let mut command = std::process::Command::new(program);
        command.arg("--no-defaults").args(["--host", host, "--port", port, "--user", user]).env("MYSQL_PWD", password);
        command.args(more);
        command
    };
    let dump = run("mariadb-dump", &["--single-transaction", "--hex-blob", name]).output()?;
    assert!(dump.status.success(), "{}", String::from_utf8_lossy(&dump.stderr));
    let restored = fresh_database().await?;
    let mut load =
        run("mariadb", &[restored.rsplit_once('/').unwrap().1]).stdin(std::process::Stdio::piped()).spawn()?;
    load.stdin.take().unwrap().write_all(&dump.stdout)?;
    assert!(load.wait()?.success());
    let server = Server::start(&restored, &[])?;
    let client = Client::of(&server.address, &client.job);
    assert_eq!(client.show().await?, before);
    let more = json!({ "part": 1, "action": { "kind": "shape.place", "by": [0, 0, 2] } });
    assert_eq!(client.ask("steps", more).await?["state"], "done");
    Ok(())
}

/// Fifty people who read, while both workers are busy: how long they wait, and whether the server grows. The result stands in
/// docs/benchmarks.md.
#[tokio::test]
#[ignore = "takes a minute, and tells only on a machine that is not busy otherwise"]
async fn fifty_people_read_while_heavy_tasks_run() -> Done {
    let server = Server::with_demo().await?;
    let jobs: Value = reqwest::get(format!("{}/api/v1/jobs", server.address)).await?.json().await?;
    let demo = jobs[0]["id"].as_str().unwrap().to_owned();
    let client = Client::with_new_job(&server.address).await?;
    let heavy = stl_of(&big_ball(500))?;
    let end = Instant::now() + Duration::from_secs(60);
    let readers = (0..50).map(|n| {
        let (reader, demo) = (Client::of(&server.address, &demo), demo.clone());
        tokio::spawn(async move {
            let mut waits = Vec::new();
            while Instant::now() < end {
                let path = if n % 2 == 0 { format!("/jobs/{demo}") } else { "/jobs".to_owned() };
                let begin = Instant::now();
                reader.get(&path).await?;
                waits.push(begin.elapsed());
                tokio::time::sleep(Duration::from_millis(400 + n * 7)).await;
            }
            anyhow::Ok(waits)
        })
    });
    let readers: Vec<_> = readers.collect();
    tokio::time::sleep(Duration::from_secs(5)).await;
    let early = Server::peak_memory(server.process())?;
    let mut tasks = 0;
    while Instant::now() < end {
        let (_, one) = client.upload("ball.stl", heavy.clone()).await?;
        let (_, two) = client.upload("ball again.stl", heavy.clone()).await?;
        client.end_of(&one).await?;
        client.end_of(&two).await?;
        tasks += 2;
    }
    let mut waits = Vec::new();
    for reader in readers {
        waits.extend(reader.await??);
    }
    waits.sort();
    let at = |share: f64| waits[((waits.len() - 1) as f64 * share) as usize];
    let late = Server::peak_memory(server.process())?;
    println!(
        "{} reads: half within {:?}, 99 of 100 within {:?}, all within {:?}; {tasks} heavy tasks; {early} MB, then {late} MB",
        waits.len(),
        at(0.5),
        at(0.99),
        at(1.0)
    );
    assert!(at(0.99) < Duration::from_millis(200) && late < early + 50);
    Ok(())
}

#[tokio::test]
async fn a_job_is_deleted_and_brought_back_on_the_screen() -> Done {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.send(Method::POST, "/jobs", Some(json!({ "name": "Harbour lamp" }))).await?;
    let b = Browser::open(&server.address).await?;
    b.expect("job-name", "Harbour lamp").await?;
    b.click("job-name").await?;
    b.click("all-jobs").await?;
    b.click("delete-Harbour lamp").await?;
    b.expect("deleted-Harbour lamp", "can be brought back until").await?;
    b.find("job-test").await?;
    assert_eq!(client.get("/jobs").await?.as_array().map(Vec::len), Some(1));
    b.click("bring-back-Harbour lamp").await?;
    b.expect("job-name", "Harbour lamp").await?;
    b.close().await
}
