//! The modules of the front end that need no browser, tried by themselves.

use std::path::Path;
use std::process::Command;

#[test]
fn the_modules_of_the_front_end_do_what_their_tests_say() {
    let web = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web");
    let run = Command::new("npm").args(["run", "--silent", "unit"]).current_dir(web).output().expect("npm runs");
    let told = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
    assert!(run.status.success(), "{}{}", told(&run.stdout), told(&run.stderr));
}
