//! Files with bytes changed, gone, doubled or cut off: read or refused, with little work and within memory, and never a panic.
#![allow(clippy::unwrap_used, clippy::panic)] // a failed test says so by panicking

use cpu_time::ProcessTime;
use nimbet_formats::{Body, LengthUnit, Limits, ReleaseFormat, write_body};
use nimbet_kernel::Progress;
use nimbet_ledger::{ReadAs, bring_in};
use nimbet_trade::{demo, examine};
use peak_alloc::PeakAlloc;

#[global_allocator]
static MEMORY: PeakAlloc = PeakAlloc;

/// Numbers that are the same for each seed (xorshift).
struct Dice(u64);

impl Dice {
    fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % n.max(1) as u64) as usize
    }
}

/// Sound files of every format that is written, of parts with and without faults.
fn files() -> Vec<(String, Vec<u8>)> {
    let parts = [demo::hinge_leaf(), demo::porthole_ring(), demo::bailer(), demo::half_fairlead()];
    let write = |mesh, format| {
        let body = Body { name: "part", colour: [80; 3], mesh };
        write_body(&body, format, LengthUnit::Millimetre).unwrap()
    };
    let of = |format: ReleaseFormat| {
        parts.iter().map(move |mesh| (format!("part.{}", format.extension()), write(mesh, format)))
    };
    let mut files: Vec<_> = ReleaseFormat::TRIANGLES.into_iter().flat_map(of).collect();
    let text = "solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 10 0 0\nvertex 0 10 5\nendloop\nendfacet\nendsolid a\n";
    files.push(("part.stl".into(), text.into()));
    files.push((
        "part.off".into(),
        b"OFF\n4 4 0\n0 0 0\n9 0 0\n0 9 0\n0 0 9\n3 0 2 1\n3 0 1 3\n3 1 2 3\n3 2 0 3\n".to_vec(),
    ));
    for name in [
        "ball-two-holes",
        "cone-half",
        "drum-slant",
        "egg-bitten",
        "flanged-pipe",
        "frame",
        "mast-lantern",
        "triangles",
        "vase-hollow",
        "wires",
    ] {
        let path = format!("{}/../brep/tests/parts/{name}.step", env!("CARGO_MANIFEST_DIR"));
        files.push((format!("{name}.step"), std::fs::read(path).unwrap()));
    }
    files
}

fn mutated(bytes: &[u8], dice: &mut Dice) -> Vec<u8> {
    let mut bytes = bytes.to_vec();
    for _ in 0..1 + dice.below(6) {
        let at = dice.below(bytes.len());
        let some = at..(at + 1 + dice.below(200)).min(bytes.len());
        match dice.below(7) {
            // A digit or sign of a text, a byte of anything, all bits of some.
            0 | 1 => bytes[at] = b"0123456789.-+eE \n/#"[dice.below(19)],
            2 => bytes[at] = dice.below(256) as u8,
            3 => bytes[some].fill(0xFF),
            4 => drop(bytes.drain(some)),
            5 => {
                let double = bytes[some.clone()].to_vec();
                bytes.splice(some.start..some.start, double);
            }
            _ => bytes.truncate(at.max(1)),
        }
        if bytes.is_empty() {
            break;
        }
    }
    bytes
}

/// No file takes more of the processor, seconds of both cores together: what else the machine does is not counted.
const LONGEST: f64 = 10.0;

fn survive(seeds: std::ops::Range<u64>) {
    let (files, limits) = (files(), Limits { triangles: 1_000_000 });
    let (mut read, mut slowest, mut largest) = (0, 0.0f64, 0.0f32);
    for seed in seeds.clone() {
        let mut dice = Dice(seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1);
        let (name, bytes) = &files[dice.below(files.len())];
        let bytes = mutated(bytes, &mut dice);
        MEMORY.reset_peak_usage();
        let (before, begin) = (MEMORY.current_usage_as_mb(), ProcessTime::now());
        let how = ReadAs { chord: Some(0.1), ..ReadAs::default() };
        if let Ok(part) = bring_in(&bytes[..], bytes.len() as u64, name, &how, &limits, &Progress::unwatched()) {
            read += 1;
            let seen = examine(&part.parts[0].mesh, &Progress::unwatched()).unwrap();
            let text = serde_json::to_string(&seen).unwrap();
            assert_eq!(
                serde_json::from_str::<nimbet_trade::Examination>(&text).unwrap(),
                seen,
                "seed {seed}: read back"
            );
        }
        if begin.elapsed().as_secs_f64() > LONGEST * 0.3 {
            println!("seed {seed}, {name}: {:.1} s", begin.elapsed().as_secs_f64());
        }
        let (took, more) = (begin.elapsed().as_secs_f64(), MEMORY.peak_usage_as_mb() - before);
        assert!(took < LONGEST && more < 300.0, "seed {seed}, {name}: {took:.1} s, {more:.0} MB");
        (slowest, largest) = (slowest.max(took), largest.max(more));
    }
    println!("{} files, {read} of them read: {slowest:.2} s and {largest:.0} MB at most", seeds.end - seeds.start);
}

#[test]
fn mutated_files_are_read_or_refused() {
    survive(0..600);
}

/// The result stands in docs/operate.md. `NIMBET_SEED` is the seed to begin with.
#[test]
#[ignore = "takes minutes"]
fn mutated_files_are_read_or_refused_in_the_long_run() {
    let from = std::env::var("NIMBET_SEED").ok().and_then(|seed| seed.parse().ok()).unwrap_or(0);
    survive(from..25_000);
}
