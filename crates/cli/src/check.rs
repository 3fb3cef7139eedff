//! `nimbet check`: a yes or no with reasons.

use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use anyhow::Context;
use clap::{Args, ValueEnum};
use nimbet_formats::Limits;
use nimbet_kernel::Progress;
use nimbet_ledger::{BroughtIn, UnitChoice, bring_in};
use nimbet_trade::examine::Severity;
use nimbet_trade::wall::{Making, with_least_wall};
use nimbet_trade::wall_findings;
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
    /// Also what this way of making asks of walls and corners: a key of docs/processes.md.
    #[arg(long)]
    process: Option<String>,
}

/// A length unit on the command line.
#[derive(Clone, Copy, PartialEq, Eq, ValueEnum)]
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

/// Prints a text. A reader that has gone away (`| head`) is no fault.
fn say(text: &str) {
    let _ = writeln!(std::io::stdout(), "{text}");
}

pub fn check(args: &CheckArgs) -> ExitCode {
    let looked = read(&args.file, args.unit).and_then(|part| {
        let quiet = Progress::unwatched();
        let mut examination = with_least_wall(examine(&part.mesh, &quiet)?, &part.mesh, &quiet)?;
        if let Some(process) = &args.process {
            let asks = Making { process: process.clone(), ..Default::default() }.figures()?;
            let walls = wall_findings(&part.mesh, &examination, &asks, &quiet)?;
            examination.findings.extend(walls.into_iter().map(|w| w.finding));
        }
        Ok((part, examination))
    });
    match looked {
        Ok((part, examination)) => {
            if args.json {
                let told = serde_json::json!({
                    "format": part.format, "unit": part.unit, "notes": part.notes, "examination": examination,
                });
                say(&serde_json::to_string_pretty(&told).unwrap_or_default());
            } else {
                say(&sheet(&args.file, &part, &examination));
            }
            if examination.figures.state == PartState::Sealed { ExitCode::SUCCESS } else { ExitCode::from(1) }
        }
        Err(error) => {
            if args.json {
                say(&serde_json::json!({ "unreadable": format!("{error:#}") }).to_string());
            } else {
                eprintln!("unreadable: {error:#}");
            }
            ExitCode::from(2)
        }
    }
}

fn sheet(file: &Path, part: &BroughtIn, examination: &Examination) -> String {
    let f = &examination.figures;
    let mut lines = vec![format!("{}: {}", file.display(), f.reason)];
    lines.extend(part.notes.iter().map(|note| format!("  note: {note}")));
    lines.push(format!("  size      {} mm", f.size.map(words::figure).join(" × ")));
    lines.push(format!("  triangles {}", words::whole(f.triangles)));
    lines.push(format!("  area      {} mm²", words::figure(f.area)));
    match (f.volume, &f.no_volume) {
        (Some(v), _) => lines.push(format!("  volume    {} mm³", words::figure(v))),
        (None, Some(why)) => lines.push(format!("  {why}")),
        (None, None) => {}
    }
    if let Some(least) = f.least_wall {
        lines.push(format!("  thinnest  {} mm", words::figure(least)));
    }
    for finding in &examination.findings {
        let mark = match finding.severity {
            Severity::Blocks => "blocks",
            Severity::Warns => "warns ",
            Severity::Notes => "notes ",
        };
        let at = finding.place.centre.map(words::figure).join(", ");
        lines.push(format!("  {mark} {}: {} at ({at}) mm", finding.title, finding.size));
        lines.push(format!("         {}", finding.cause));
        lines.extend(finding.remedies.iter().map(|remedy| format!("         → {}", remedy.label)));
    }
    lines.join("\n")
}
