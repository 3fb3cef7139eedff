//! Changing one's mind in the browser: reopen, remove, a pick that is gone, holding back, and somebody else at the same job.

use nimbet_e2e::*;
use nimbet_kernel::Progress;
use nimbet_trade::{demo, examine};
use serde_json::json;
use thirtyfour::prelude::*;

#[tokio::test]
async fn earlier_steps_are_changed_and_what_depends_on_them_follows() -> anyhow::Result<()> {
    let server = Server::start(&fresh_database().await?, &[])?;
    let client = Client::with_new_job(&server.address).await?;
    let cowl = demo::vent_cowl();
    client.bring_in("Vent cowl.ply", ply_of(&cowl)?).await?;
    let seen = examine(&cowl, &Progress::unwatched())?;
    let rim = |flat: bool| seen.rims.iter().find(|r| r.flat == flat).unwrap().pick.clone();
    let cover = |rim, style: &str| json!({ "kind": "seal.cover_rim", "style": style, "rims": { "picked": [rim] } });
    for action in
        [cover(rim(true), "flat"), cover(rim(false), "taut"), json!({ "kind": "shape.place", "by": [0.0, 0.0, 30.0] })]
    {
        assert_eq!(client.ask("steps", json!({ "part": 1, "action": action })).await?["state"], "done");
    }
    let b = Browser::open(&server.address).await?;
    let as_done = b.expect("gauge-volume", "cm³").await?;

    // Reopened by keyboard, the cover becomes a dome, and the move after it follows.
    b.click("ledger-tab").await?;
    b.click("step-4").await?;
    b.press_in("step-4", Key::Up).await?;
    b.press_in("step-3", Key::Enter).await?;
    b.expect("banner", "Step 3 reopened: as it was done").await?;
    b.expect("gauge-state", "open").await?;
    b.expect("rims", "R1").await?;
    b.click("style-domed").await?;
    b.expect("later", "1 later step follows").await?;
    b.click("apply").await?;
    b.click("ledger-tab").await?;
    b.expect("step-3", "Cover 1 rim domed").await?;
    assert_ne!(b.expect("gauge-volume", "cm³").await?, as_done);

    // Removed with a key; undone, everything is as it was.
    b.click("step-4").await?;
    b.press_in("step-4", Key::Delete).await?;
    b.expect("ledger-tab", "Ledger 3").await?;
    b.press_with_control("z").await?;
    b.expect("ledger-tab", "Ledger 4").await?;
    b.press_with_control("z").await?;
    b.expect("gauge-volume", &as_done).await?;

    // What somebody else does is seen; here it takes the picked rim away, so a step needs a new pick and the next waits.
    let all = json!({ "kind": "seal.cover_rim", "style": "taut" });
    let edit = json!({ "edit": { "edit": "replace", "step": 2, "action": all }, "who": "Joel" });
    assert_eq!(client.ask("edits", edit).await?["state"], "done");
    b.expect("news", "Joel: Step 2 changed").await?;
    b.expect("step-3", "is not there any more; pick it again").await?;
    b.expect("step-4", "waits for step 3, which is stopped").await?;
    b.expect("gauge-state", "stopped at step 3; before it sealed").await?;
    b.click("step-3").await?;
    b.click("reopen-3").await?;
    b.expect("problem", "Pick again").await?;
    b.click("cancel").await?;
    b.click("ledger-tab").await?;
    b.click("park-3").await?;
    b.expect("step-3", "parked").await?;
    b.expect("step-4", "sealed").await?;

    // Work after the second step: the rest is held back, a state is kept, then the rest comes back.
    b.click("step-2").await?;
    b.click("work-2").await?;
    b.expect("here", "2 steps are held back").await?;
    b.click("keep-2").await?;
    b.expect("step-5", "Keep as As after step 2").await?;
    b.click("go-on").await?;
    b.expect("ledger-tab", "Ledger 5").await?;
    let job = client.show().await?;
    let names: Vec<_> = job["parts"].as_array().unwrap().iter().filter_map(|p| p["name"].as_str()).collect();
    assert_eq!(names, ["Vent cowl", "As after step 2"]);

    // The state before the move beside the one after it.
    b.click("step-2").await?;
    b.click("compare-2").await?;
    b.expect("apart", "the surfaces lie at most").await?;
    b.expect("banner", "Two states compared").await?;
    b.click("compare-end").await?;

    // What was done to the part is done to another file, and a table tells what came of it.
    b.click("station-bring").await?;
    b.choose("recipe-choice", "What was done to Vent cowl").await?;
    b.give_file("second cowl.ply", &ply_of(&cowl)?).await?;
    b.expect("recipe-results", "sealed").await?;
    b.expect("recipe-results", "3 steps done").await?;
    b.close().await
}
