//! `nimbet run`: a recipe on a file, and the proved result.

use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use clap::Args;
use nimbet_formats::{Body, LengthUnit, ReleaseFormat, write_body};
use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::{PART_COLOUR, Recipe, RecipeError, ReleaseError, release, run_recipe};
use nimbet_trade::Examination;

use crate::check::{UnitArg, read};

#[derive(Args)]
pub struct RunArgs {
    /// The recipe (docs/recipe.md).
    recipe: PathBuf,
    /// The file it is run on.
    input: PathBuf,
    /// The file to write: .3mf, .stl, .obj or .ply. Written in millimetres, only if proved a solid.
    #[arg(short, long)]
    output: PathBuf,
    /// The unit of the input's numbers.
    #[arg(long, value_enum, default_value_t = UnitArg::Auto)]
    unit: UnitArg,
}

pub fn run(args: &RunArgs) -> anyhow::Result<()> {
    let name = args.output.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    let Some(format) = ReleaseFormat::of_name(&args.output.to_string_lossy()) else {
        bail!("{}: the output must end in .3mf, .stl, .obj or .ply", args.output.display());
    };
    let shown = args.recipe.display().to_string();
    let text = std::fs::read_to_string(&args.recipe).with_context(|| shown.clone())?;
    let recipe = Recipe::parse(&text).with_context(|| shown)?;
    let part = read(&args.input, args.unit)?;
    for note in &part.notes {
        println!("note: {note}");
    }
    let progress = Progress::unwatched();
    let run = run_recipe(&recipe, part.mesh, &progress)?;
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
    write(&args.output, &name, format, &run.mesh, &run.examination)?;
    let ending = args.output.extension().unwrap_or_default().to_string_lossy();
    for (number, (mesh, examination)) in &run.others {
        let name = format!("{name}-{number}");
        let path = args.output.with_file_name(format!("{name}.{ending}"));
        write(&path, &name, format, mesh, examination)?;
    }
    Ok(())
}

/// Writes a part, if it is proved a solid.
fn write(path: &Path, name: &str, format: ReleaseFormat, mesh: &Mesh, seen: &Examination) -> anyhow::Result<()> {
    let released = release(name, mesh, seen, format, LengthUnit::Millimetre, &Progress::unwatched())
        .with_context(|| path.display().to_string())?;
    std::fs::write(path, &released.bytes).with_context(|| path.display().to_string())?;
    println!("{}: proved, {} bytes", path.display(), released.bytes.len());
    Ok(())
}

/// Whether an error says that the part could not be made a solid, rather than that a file could not be used.
pub fn is_refusal(error: &anyhow::Error) -> bool {
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
