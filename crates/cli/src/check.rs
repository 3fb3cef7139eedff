//! `nimbet check`: a yes or no with reasons.

use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use anyhow::Context;
use clap::{Args, ValueEnum};
use nimbet_formats::{FileFormat, LengthUnit, Limits};
use nimbet_kernel::{Aabb, Mesh, Progress, Topology};
use nimbet_ledger::{Bodies, BringInError, BroughtIn, OfferedBody, PickedBody, ReadAs, UnitChoice, bring_in};
use nimbet_trade::examine::Severity;
use nimbet_trade::wall::{Making, with_least_wall};
use nimbet_trade::wall_findings;
use nimbet_trade::wire::Wire;
use nimbet_trade::{Examination, PartState, examine, words};

#[derive(Args)]
pub struct CheckArgs {
    /// The file: STL, OBJ, PLY, OFF, 3MF, glTF or STEP.
    file: PathBuf,
    /// Print everything as JSON.
    #[arg(long)]
    json: bool,
    #[command(flatten)]
    how: ReadArgs,
    /// Also what this way of making asks of walls and corners: a key of docs/processes.md.
    #[arg(long)]
    process: Option<String>,
}

/// How a file is read.
#[derive(Args, Clone, Copy)]
pub struct ReadArgs {
    /// The unit of the file's numbers.
    #[arg(long, value_enum, default_value_t = UnitArg::Auto)]
    pub unit: UnitArg,
    /// How far triangles may stand off exact surfaces (STEP), mm; 0.02 where nothing is said.
    #[arg(long, value_parser = chord)]
    pub chord: Option<f64>,
    /// Do not let faces end where colours, materials or named groups of the file do.
    #[arg(long)]
    pub no_groups: bool,
    /// Only this body of the file, counted from 0 as `nimbet bodies` lists them; else all of them as one part.
    #[arg(long)]
    pub body: Option<u32>,
}

impl From<UnitArg> for ReadArgs {
    fn from(unit: UnitArg) -> Self {
        Self { unit, chord: None, no_groups: false, body: None }
    }
}

fn chord(text: &str) -> Result<f64, String> {
    match text.parse() {
        Ok(chord) if (1e-5..=1000.0).contains(&chord) => Ok(chord),
        _ => Err("a chord is a length from 0.00001 mm to 1000 mm".into()),
    }
}

#[derive(Args)]
pub struct BodiesArgs {
    /// The file.
    file: PathBuf,
    /// Print the list as JSON.
    #[arg(long)]
    json: bool,
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

/// A file as one part.
pub struct OnePart {
    pub mesh: Mesh,
    pub format: FileFormat,
    pub unit: LengthUnit,
    pub notes: Vec<String>,
}

/// Reads a file as a part.
pub fn read(path: &Path, how: &ReadArgs) -> anyhow::Result<OnePart> {
    let bodies = match how.body {
        Some(body) => Bodies::Picked(vec![PickedBody { body, name: String::new(), colour: None }]),
        None => Bodies::Joined,
    };
    let as_said = ReadAs { unit: how.unit.choice(), chord: how.chord, groups: !how.no_groups, bodies };
    let read = brought_in(path, &as_said);
    let BroughtIn { parts, format, unit, notes } = read.with_context(|| path.display().to_string())?;
    let part = parts.into_iter().next().context("a file became no part")?;
    Ok(OnePart { mesh: part.mesh, format, unit, notes })
}

fn brought_in(path: &Path, how: &ReadAs) -> anyhow::Result<BroughtIn> {
    let file = File::open(path)?;
    let length = file.metadata()?.len();
    let name = path.file_name().unwrap_or_default().to_string_lossy();
    match bring_in(file, length, &name, how, &Limits::default(), &Progress::unwatched()) {
        Err(BringInError::Read(e)) => Err(e.into()),
        other => Ok(other?),
    }
}

/// Lists the bodies of a file.
pub fn bodies(args: &BodiesArgs) -> anyhow::Result<()> {
    let how = ReadAs { bodies: Bodies::Ask, ..ReadAs::default() };
    let listed: Vec<OfferedBody> = match brought_in(&args.file, &how) {
        Err(e) => match e.downcast::<BringInError>() {
            Ok(BringInError::SeveralBodies(list)) => list,
            Ok(other) => return Err(other.into()),
            Err(e) => return Err(e.context(args.file.display().to_string())),
        },
        Ok(read) => (read.parts.iter())
            .map(|part| {
                // What shows lines is no surface of the file.
                let wire = part.mesh.drawn().is_some();
                let bounds = Wire::of(&part.mesh).map(|lines| lines.bounds());
                let bounds = bounds.unwrap_or_else(|| Aabb::of(part.mesh.points().iter().copied()));
                OfferedBody {
                    body: part.picked.body,
                    name: part.picked.name.clone(),
                    size: bounds.size().to_array(),
                    triangles: if wire { 0 } else { part.mesh.triangles().len() },
                    closed: !wire && is_closed(&part.mesh),
                    wire,
                    colour: part.picked.colour.clone(),
                }
            })
            .collect(),
    };
    if args.json {
        say(&serde_json::to_string_pretty(&listed)?);
        return Ok(());
    }
    for body in listed {
        let size = body.size.map(words::figure).join(" × ");
        let what = match (body.wire, body.closed) {
            (true, _) => "lines without a surface".to_owned(),
            (false, true) => format!("{} triangles, closed", words::whole(body.triangles)),
            (false, false) => format!("{} triangles, open", words::whole(body.triangles)),
        };
        say(&format!("{:>5}  {}  {size} mm, {what}", body.body, body.name));
    }
    Ok(())
}

fn is_closed(mesh: &Mesh) -> bool {
    Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty()
}

/// Prints a text. A reader that has gone away (`| head`) is no fault.
fn say(text: &str) {
    let _ = writeln!(std::io::stdout(), "{text}");
}

pub fn check(args: &CheckArgs) -> ExitCode {
    let looked = read(&args.file, &args.how).and_then(|part| {
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

fn sheet(file: &Path, part: &OnePart, examination: &Examination) -> String {
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
