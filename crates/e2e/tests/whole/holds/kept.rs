//! What is kept: a database without room, what is tidied and what never is.

use super::*;
use crate::Done;

/// Bytes that do not compress, each time others.
fn noise(megabytes: usize, seed: u64) -> Vec<u8> {
    let mut state = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
    let mut next = || {
        state ^= state << 13;
        state ^= state >> 7;
        state ^= state << 17;
        state.to_le_bytes()
    };
    (0..megabytes << 17).flat_map(|_| next()).collect()
}

#[tokio::test]
async fn a_full_database_says_so_and_keeps_what_it_has() -> Done {
    let home = tempfile::tempdir()?;
    // All tables in one file that may not grow beyond this: full as a disk is full.
    let within = |megabytes: u32| {
        format!("--innodb-file-per-table=0 --innodb-data-file-path=ibdata1:12M:autoextend:max:{megabytes}M")
    };
    let mut database = OwnDatabase::start_with(&home.path().join("data"), &within(60))?;
    let server = Server::start(&database.url, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    let before = client.show().await?;
    let mut refused = None;
    for seed in 0..12 {
        let (status, told) = client.upload("noise.stl", noise(8, seed)).await?;
        if status != 202 {
            refused = Some((status, told["type"].clone()));
            break;
        }
        client.end_of(&told).await?;
    }
    assert_eq!(refused, Some((507, json!("urn:nimbet:no-room"))));
    // What needs more than there is fails with that reason; what is there is read as ever.
    let (_, task) = client.upload("ball.stl", stl_of(&big_ball(60))?).await?;
    if task["id"].is_number() {
        let over = client.end_of(&task).await?;
        assert!(over["state"] == "done" || over["problem"]["type"] == "urn:nimbet:no-room", "{over}");
    }
    assert_eq!(client.show().await?["parts"][0], before["parts"][0]);
    assert_eq!(reqwest::get(format!("{}/health/live", server.address)).await?.status(), 200);
    // On a larger disk it goes on, even where the database was killed in that state.
    drop(server);
    database.kill()?;
    let database = OwnDatabase::start_with(&home.path().join("data"), &within(300))?;
    let server = Server::start(&database.url, &[])?;
    let client = client.at(&server.address);
    assert_eq!(client.show().await?["parts"][0], before["parts"][0]);
    let (status, told) = client.upload("noise.stl", noise(8, 99)).await?;
    assert_eq!(status, 202, "{told}");
    client.end_of(&told).await?;
    let moved = client.ask("steps", json!({ "part": 1, "action": { "kind": "shape.place", "by": [1, 0, 0] } })).await?;
    assert_eq!(moved["state"], "done", "{moved}");
    Ok(())
}

#[tokio::test]
async fn what_is_tidied_is_old_and_nothing_refers_to_it() -> Done {
    let database = fresh_database().await?;
    let pool = sqlx::mysql::MySqlPool::connect(&database).await?;
    let count = async |query: &'static str| -> anyhow::Result<i64> {
        Ok(sqlx::query(query).fetch_one(&pool).await?.try_get::<i64, _>(0)?)
    };
    const BLOBS: &str = "SELECT COUNT(*) FROM blobs";
    const TASKS: &str = "SELECT COUNT(*) FROM tasks";
    const UPLOADS: &str = "SELECT COUNT(*) FROM uploads";
    const JOBS: &str = "SELECT COUNT(*) FROM jobs";
    let server = Server::start(&database, &[])?;
    let gone = Client::with_new_job(&server.address).await?;
    gone.bring_in("gone.off", block_of(30.0)).await?;
    gone.send(Method::DELETE, &format!("/jobs/{}", gone.job), None).await?;
    let client = Client::with_new_job(&server.address).await?;
    client.bring_in("block.off", block_of(20.0)).await?;
    let grown = json!({ "part": 1, "action": { "kind": "wall.grow", "by": 1 } });
    client.ask("forecasts", json!({ "part": 1, "action": { "kind": "wall.grow", "by": 2 } })).await?;
    client.ask("steps", grown).await?;
    let kept = client.show().await?;
    sqlx::query("INSERT INTO uploads (id) VALUES (REPEAT('u', 32))").execute(&pool).await?;
    let all = (count(JOBS).await?, count(TASKS).await?, count(UPLOADS).await?, count(BLOBS).await?);
    assert_eq!((all.0, all.2), (2, 1));
    drop(server);

    // The clock has gone back a year, and on to a day before anything is old: nothing goes.
    let shift = async |days: i64| -> Done {
        for (table, columns) in [
            ("tasks", &["created_at", "ended_at"][..]),
            ("jobs", &["deleted_at"]),
            ("uploads", &["began_at"]),
            ("blobs", &["kept_at"]),
        ] {
            for column in columns {
                let query = format!("UPDATE {table} SET {column} = {column} - INTERVAL ? DAY");
                sqlx::query(sqlx::AssertSqlSafe(query)).bind(days).execute(&pool).await?;
            }
        }
        Ok(())
    };
    let tidied = async |until: (i64, i64, i64)| -> Done {
        let server = Server::start(&database, &[])?;
        let begin = Instant::now();
        while (count(JOBS).await?, count(TASKS).await?, count(UPLOADS).await?) != until {
            assert!(begin.elapsed() < Duration::from_secs(30), "{}", count(TASKS).await?);
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        // Reclaiming comes last, after what was waited for.
        tokio::time::sleep(Duration::from_secs(1)).await;
        assert_eq!(client.at(&server.address).show().await?, kept);
        Ok(())
    };
    shift(-365).await?;
    tidied((all.0, all.1, all.2)).await?;
    assert_eq!(count(BLOBS).await?, all.3);
    shift(365 + 6).await?;
    tidied((2, all.1, 0)).await?;
    assert_eq!(count(BLOBS).await?, all.3, "a forecast a person may still apply");
    shift(2).await?;
    tidied((2, 0, 0)).await?;
    assert_eq!(count(BLOBS).await?, all.3 - 1, "the forecast that was never applied");
    shift(30).await?;
    tidied((1, 0, 0)).await?;
    // What stayed can be worked on: undone, done again, moved.
    let server = Server::start(&database, &[])?;
    let client = client.at(&server.address);
    let (status, undone) = client
        .send(Method::POST, &format!("/jobs/{}/undo", client.job), Some(json!({ "revision": kept["revision"] })))
        .await?;
    assert_eq!((status, undone["steps"].as_array().map(Vec::len)), (200, Some(1)));
    let redo = json!({ "revision": undone["revision"] });
    assert_eq!(client.send(Method::POST, &format!("/jobs/{}/redo", client.job), Some(redo)).await?.0, 200);
    // A file that comes in again just when it would be tidied counts as kept from then on.
    let again = client.bring_in("block.off", block_of(20.0)).await?;
    assert_eq!(again["state"], "done", "{again}");
    let old = "SELECT COUNT(*) FROM blobs WHERE kept_at < UTC_TIMESTAMP(3) - INTERVAL 7 DAY";
    assert!(count(old).await? < count(BLOBS).await?);
    Ok(())
}

#[tokio::test]
async fn a_task_that_another_took_over_is_done_once() -> Done {
    let database = fresh_database().await?;
    let pool = sqlx::mysql::MySqlPool::connect(&database).await?;
    let server = Server::start(&database, &["--task-slots", "1"])?;
    let client = Client::with_new_job(&server.address).await?;
    let (_, task) = client.upload("ball.stl", stl_of(&big_ball(600))?).await?;
    client.wait(&task, |t| t["state"] == "running" && t["fraction"].as_f64() > Some(0.02)).await?;
    // As if its worker had slept longer than its lease, and another that took it over were gone by now, too.
    let lost = "UPDATE tasks SET worker = UNHEX(REPEAT('AB', 16)), lease_until = UTC_TIMESTAMP(3) - INTERVAL 1 SECOND \
        WHERE state = 'running'";
    assert_eq!(sqlx::query(lost).execute(&pool).await?.rows_affected(), 1);
    let over = client.end_of(&task).await?;
    assert_eq!(over["state"], "done", "{over}");
    let attempts: i32 = sqlx::query("SELECT attempts FROM tasks").fetch_one(&pool).await?.try_get(0)?;
    assert_eq!(attempts, 2, "begun once more");
    let job = client.show().await?;
    assert_eq!((job["steps"].as_array().map(Vec::len), &job["revision"]), (Some(1), &json!(2)), "and committed once");
    Ok(())
}
