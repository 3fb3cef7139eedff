//! `nimbet compare`: what of one file's surface is lost, swallowed or invented in another.

use std::path::PathBuf;
use std::process::ExitCode;

use clap::Args;
use nimbet_kernel::Progress;
use nimbet_kernel::harm::harm;
use nimbet_trade::harm::{HarmFacts, far_distance};
use nimbet_trade::words;

use crate::check::{UnitArg, read};
use crate::run::harm_lines;

#[derive(Args)]
pub struct CompareArgs {
    /// The file that came in.
    before: PathBuf,
    /// What was made of it.
    after: PathBuf,
    /// What lies nearer than this counts as there, mm; a thousandth of the first file's diagonal when absent.
    #[arg(long)]
    distance: Option<f64>,
    /// The unit of the first file's numbers.
    #[arg(long, value_enum, default_value_t = UnitArg::Auto)]
    unit: UnitArg,
    /// The unit of the second file's numbers; what is in millimetres, as `nimbet run` writes, needs none.
    #[arg(long, value_enum, default_value_t = UnitArg::Auto)]
    unit_after: UnitArg,
    /// Print everything as JSON.
    #[arg(long)]
    json: bool,
}

/// Compares two files. Exit code 0 where nothing is lost, 1 where something is, 2 where a file cannot be read.
pub fn compare(args: &CompareArgs) -> ExitCode {
    match compared(args) {
        Ok(harm) => {
            if args.json {
                println!("{}", serde_json::to_string_pretty(&harm).unwrap_or_default());
            } else {
                let far = words::millimetres(harm.distance);
                println!("{} → {}, farther than {far}:", args.before.display(), args.after.display());
                let lines = harm_lines(&harm);
                lines.iter().for_each(|line| println!("  {line}"));
                if lines.is_empty() {
                    println!("  nothing is lost, swallowed or invented");
                }
            }
            if harm.lost.area > 0.0 { ExitCode::from(1) } else { ExitCode::SUCCESS }
        }
        Err(error) => {
            eprintln!("nimbet: {error:#}");
            ExitCode::from(2)
        }
    }
}

fn compared(args: &CompareArgs) -> anyhow::Result<HarmFacts> {
    let (before, after) =
        (read(&args.before, &args.unit.into())?.mesh, read(&args.after, &args.unit_after.into())?.mesh);
    let distance = args.distance.unwrap_or_else(|| far_distance(&before));
    anyhow::ensure!(distance > 0.0 && distance.is_finite(), "the distance must be a length above 0 mm");
    Ok(HarmFacts::of(&harm(&before, &after, distance, &Progress::unwatched())?))
}
