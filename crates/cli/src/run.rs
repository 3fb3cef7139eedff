//! `nimbet run`: a recipe on a file, and the proved result.

use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use clap::Args;
use nimbet_formats::{Body, FileFormat, LengthUnit, ReleaseFormat, write_body};
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{PART_COLOUR, Recipe, RecipeError, ReleaseError, release, run_recipe};
use nimbet_trade::fasten::ThreadMark;
use nimbet_trade::{Examination, Figures, words};

use crate::check::{UnitArg, read};

#[derive(Args)]
pub struct RunArgs {
    /// The recipe (docs/recipe.md).
    recipe: PathBuf,
    /// The files it is run on; of a folder all that can be read.
    #[arg(required = true)]
    inputs: Vec<PathBuf>,
    /// The file to write: .3mf, .stl, .obj or .ply. Written in millimetres, only if proved a solid.
    #[arg(short, long, required_unless_present = "into", conflicts_with = "into")]
    output: Option<PathBuf>,
    /// The folder to write into, a file of the same name for each input.
    #[arg(long)]
    into: Option<PathBuf>,
    /// The ending of the files written into a folder: 3mf, stl, obj or ply.
    #[arg(long, default_value = "3mf", requires = "into")]
    ending: String,
    /// The unit of the inputs' numbers.
    #[arg(long, value_enum, default_value_t = UnitArg::Auto)]
    unit: UnitArg,
}

/// Files refused when a recipe was run on several.
#[derive(Debug, thiserror::Error)]
#[error("{refused} of {files} files were not written")]
pub struct SomeRefused {
    refused: usize,
    files: usize,
    /// Whether all of them could be read.
    readable: bool,
}

pub fn run(args: &RunArgs) -> anyhow::Result<()> {
    let shown = args.recipe.display().to_string();
    let text = std::fs::read_to_string(&args.recipe).with_context(|| shown.clone())?;
    // What is written leaves the bench, so every thread is cut.
    let recipe = Recipe::parse(&text).with_context(|| shown)?.with_threads_cut();
    match (&args.output, &args.into) {
        (Some(output), _) => match &args.inputs[..] {
            [input] if !input.is_dir() => run_on(&recipe, input, output, args.unit).map(|_| ()),
            _ => bail!("several files need a folder to be written to: --into"),
        },
        (None, Some(into)) => run_on_all(&recipe, &all_files(&args.inputs)?, into, args),
        // The arguments ask for one of them.
        (None, None) => bail!("nothing to write to"),
    }
}

/// The files given, those of folders by name.
fn all_files(inputs: &[PathBuf]) -> anyhow::Result<Vec<PathBuf>> {
    let readable = |p: &PathBuf| FileFormat::of_name(&p.to_string_lossy()).is_some();
    let mut files = Vec::new();
    for input in inputs {
        if input.is_dir() {
            let entries = std::fs::read_dir(input).with_context(|| input.display().to_string())?;
            let mut held: Vec<PathBuf> = entries.filter_map(|e| Some(e.ok()?.path())).filter(readable).collect();
            held.sort();
            files.extend(held);
        } else {
            files.push(input.clone());
        }
    }
    Ok(files)
}

/// Runs a recipe on each file, goes on after one that fails, and tells all in a table.
fn run_on_all(recipe: &Recipe, files: &[PathBuf], into: &Path, args: &RunArgs) -> anyhow::Result<()> {
    std::fs::create_dir_all(into).with_context(|| into.display().to_string())?;
    let mut rows = Vec::new();
    let mut some = SomeRefused { refused: 0, files: files.len(), readable: true };
    for file in files {
        let output = into.join(file.file_stem().unwrap_or_default()).with_extension(&args.ending);
        println!("== {}", file.display());
        let told = match run_on(recipe, file, &output, args.unit) {
            Ok(figures) => {
                let volume = figures.volume.map_or_else(String::new, |v| format!(", {} mm³", words::figure(v)));
                format!("written: {}{volume}", figures.reason)
            }
            Err(error) => {
                some.refused += 1;
                some.readable &= is_refusal(&error);
                format!("not written: {error:#}")
            }
        };
        rows.push((file.display().to_string(), told));
    }
    println!("==");
    let width = rows.iter().map(|r| r.0.chars().count()).max().unwrap_or(0);
    rows.iter().for_each(|(file, told)| println!("{file:width$}  {told}"));
    if some.refused > 0 { Err(some.into()) } else { Ok(()) }
}

/// Runs a recipe on a file and writes what comes of it.
fn run_on(recipe: &Recipe, input: &Path, output: &Path, unit: UnitArg) -> anyhow::Result<Figures> {
    let name = output.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    let Some(format) = ReleaseFormat::of_name(&output.to_string_lossy()) else {
        bail!("{}: the output must end in .3mf, .stl, .obj or .ply", output.display());
    };
    let part = read(input, unit)?;
    for note in &part.notes {
        println!("note: {note}");
    }
    let progress = Progress::unwatched();
    let run = run_recipe(recipe, part.mesh, &progress)?;
    for (title, step) in &run.steps {
        println!("{title}");
        match step {
            Err(why) => println!("  nothing to do: {why}"),
            Ok(report) => {
                report.done.iter().for_each(|d| println!("  {d}"));
                report.left.iter().for_each(|l| println!("  left: {l}"));
                println!("  {} → {}", report.before.as_ref().map_or("", |b| &b.reason), report.after.reason);
            }
        }
    }
    let reports = run.steps.iter().filter_map(|(_, report)| report.as_ref().ok());
    let threads: Vec<ThreadMark> = reports.flat_map(|r| r.threads.iter().filter(|t| !t.made).cloned()).collect();
    write(output, &name, format, (&run.mesh, &run.examination), &threads)?;
    let ending = output.extension().unwrap_or_default().to_string_lossy();
    for (number, (mesh, examination)) in &run.others {
        let name = format!("{name}-{number}");
        let path = output.with_file_name(format!("{name}.{ending}"));
        write(&path, &name, format, (mesh, examination), &[])?;
    }
    Ok(run.examination.figures)
}

/// Writes a part, if it is proved a solid.
fn write(
    path: &Path,
    name: &str,
    format: ReleaseFormat,
    (mesh, seen): (&Mesh, &Examination),
    threads: &[ThreadMark],
) -> anyhow::Result<()> {
    let released = release(name, mesh, seen, threads, format, LengthUnit::Millimetre, &Progress::unwatched())
        .with_context(|| path.display().to_string())?;
    std::fs::write(path, &released.bytes).with_context(|| path.display().to_string())?;
    println!("{}: proved, {} bytes", path.display(), released.bytes.len());
    Ok(())
}

/// Whether an error says that the part could not be made a solid, rather than that a file could not be used.
pub fn is_refusal(error: &anyhow::Error) -> bool {
    if let Some(some) = error.downcast_ref::<SomeRefused>() {
        return some.readable;
    }
    matches!(error.downcast_ref(), Some(RecipeError::Step { .. })) || error.downcast_ref::<ReleaseError>().is_some()
}

pub fn write_demo(folder: &Path) -> anyhow::Result<()> {
    std::fs::create_dir_all(folder)?;
    for (name, mesh) in nimbet_trade::demo::parts() {
        let path = folder.join(format!("{}.ply", name.to_lowercase().replace(' ', "-")));
        let body = Body { name, colour: PART_COLOUR, mesh: &mesh };
        std::fs::write(&path, write_body(&body, ReleaseFormat::Ply, LengthUnit::Millimetre)?)?;
        println!("{}", path.display());
    }
    Ok(())
}
