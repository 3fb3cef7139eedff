//! `nimbet check`: a yes or no with reasons.

use std::fs::File;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use anyhow::Context;
use clap::{Args, ValueEnum};
use nimbet_formats::Limits;
use nimbet_kernel::Progress;
use nimbet_ledger::{BroughtIn, UnitChoice, bring_in};
use nimbet_trade::examine::Severity;
use nimbet_trade::{Examination, PartState, examine, words};

#[derive(Args)]
pub struct CheckArgs {
    /// The file: STL, OBJ, PLY, OFF or 3MF.
    file: PathBuf,
    /// Print everything as JSON.
    #[arg(long)]
    json: bool,
    /// The unit of the file's numbers.
    #[arg(long, value_enum, default_value_t = UnitArg::Auto)]
    unit: UnitArg,
}

/// A length unit on the command line.
#[derive(Clone, Copy, ValueEnum)]
pub enum UnitArg {
    /// As the file says, or guessed from the size.
    Auto,
    /// Millimetres.
    Mm,
    /// Centimetres.
    Cm,
    /// Metres.
    M,
    /// Inches.
    In,
}

impl UnitArg {
    pub fn choice(self) -> UnitChoice {
        match self {
            Self::Auto => UnitChoice::Auto,
            Self::Mm => UnitChoice::Millimetre,
            Self::Cm => UnitChoice::Centimetre,
            Self::M => UnitChoice::Metre,
            Self::In => UnitChoice::Inch,
        }
    }
}

/// Reads a file as a part.
pub fn read(path: &Path, unit: UnitArg) -> anyhow::Result<BroughtIn> {
    let shown = path.display().to_string();
    let file = File::open(path).with_context(|| shown.clone())?;
    let length = file.metadata().with_context(|| shown.clone())?.len();
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    bring_in(file, length, &name, unit.choice(), &Limits::default(), &Progress::unwatched()).with_context(|| shown)
}

pub fn check(args: &CheckArgs) -> ExitCode {
    let looked = read(&args.file, args.unit).and_then(|part| {
        let examination = examine(&part.mesh, &Progress::unwatched())?;
        Ok((part, examination))
    });
    match looked {
        Ok((part, examination)) => {
            if args.json {
                let told = serde_json::json!({
                    "format": part.format, "unit": part.unit, "notes": part.notes, "examination": examination,
                });
                println!("{}", serde_json::to_string_pretty(&told).unwrap_or_default());
            } else {
                print(&args.file, &part, &examination);
            }
            if examination.figures.state == PartState::Sealed { ExitCode::SUCCESS } else { ExitCode::from(1) }
        }
        Err(error) => {
            if args.json {
                println!("{}", serde_json::json!({ "unreadable": format!("{error:#}") }));
            } else {
                eprintln!("unreadable: {error:#}");
            }
            ExitCode::from(2)
        }
    }
}

fn print(file: &Path, part: &BroughtIn, examination: &Examination) {
    let f = &examination.figures;
    println!("{}: {}", file.display(), f.reason);
    for note in &part.notes {
        println!("  note: {note}");
    }
    let size = f.size.map(words::figure).join(" × ");
    println!("  size      {size} mm");
    println!("  triangles {}", f.triangles);
    println!("  area      {} mm²", words::figure(f.area));
    match (f.volume, &f.no_volume) {
        (Some(v), _) => println!("  volume    {} mm³", words::figure(v)),
        (None, Some(why)) => println!("  {why}"),
        (None, None) => {}
    }
    for finding in &examination.findings {
        let mark = match finding.severity {
            Severity::Blocks => "blocks",
            Severity::Warns => "warns ",
            Severity::Notes => "notes ",
        };
        let at = finding.place.centre.map(words::figure).join(", ");
        println!("  {mark} {}: {} at ({at}) mm", finding.title, finding.size);
        println!("         {}", finding.cause);
        for remedy in &finding.remedies {
            println!("         → {}", remedy.label);
        }
    }
}
