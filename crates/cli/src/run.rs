//! `nimbet run`: a recipe on a file, and the proved result.

use std::path::{Path, PathBuf};

use anyhow::{Context, bail};
use clap::Args;
use nimbet_formats::{Body, FileFormat, LengthUnit, Limits, ReleaseFormat, guess_unit, read_model, write_body};
use nimbet_kernel::{Aabb, Mesh, Progress};
use nimbet_ledger::{
    Action, CheckSheet, Loss, Losses, MOST_TOGETHER, MadePart, PART_COLOUR, PartToRelease, Recipe, RecipeError,
    RecipeRun, ReleaseAs, ReleaseError, StepReport, release, release_together, run_recipe,
};
use nimbet_trade::Plan;
use nimbet_trade::fasten::ThreadMark;
use nimbet_trade::harm::{HarmFacts, MAY_LOSE};
use nimbet_trade::{Called, Examination, Figures, Operation, words};

use crate::check::{ReadArgs, UnitArg, read};

#[derive(Args)]
pub struct RunArgs {
    /// The recipe (docs/recipe.md).
    recipe: PathBuf,
    /// The files it is run on; of a folder all that can be read. Without any it begins on the empty bench.
    #[arg(required_unless_present = "output")]
    inputs: Vec<PathBuf>,
    /// The file to write: .3mf, .stl, .obj, .ply, .step (in millimetres) or .glb (in metres), only if proved a solid. What comes of
    /// several files goes into one .3mf together, if all of it is.
    #[arg(short, long, required_unless_present = "into", conflicts_with = "into")]
    output: Option<PathBuf>,
    /// The folder to write into, a file of the same name for each input.
    #[arg(long)]
    into: Option<PathBuf>,
    /// The ending of the files written into a folder: 3mf, stl, obj, ply, step or glb.
    #[arg(long, default_value = "3mf", requires = "into")]
    ending: String,
    #[command(flatten)]
    how: ReadArgs,
    /// The share of the surface that mending may lose, 0 to 1. More: not written, exit code 1.
    #[arg(long, default_value_t = MAY_LOSE, value_parser = share)]
    may_lose: f64,
    /// Print what was done as JSON, a line for each file.
    #[arg(long)]
    json: bool,
}

fn share(text: &str) -> Result<f64, String> {
    match text.parse() {
        Ok(share) if (0.0..=1.0).contains(&share) => Ok(share),
        _ => Err("a share is a number from 0 to 1".into()),
    }
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
    let mut recipe = Recipe::parse(&text).with_context(|| shown)?.with_threads_cut();
    // A plan that says nothing of its own may lose as much.
    for step in &mut recipe.steps {
        if let Action::Operation(work) = &mut step.action
            && let Some(plan) = work.operation.tool::<Plan>()
        {
            let may_lose = plan.may_lose.or(Some(args.may_lose));
            work.operation = Operation::of(Plan { may_lose, ..plan.clone() });
        }
    }
    match (&args.output, &args.into) {
        (Some(output), _) => match &args.inputs[..] {
            [] => run_on(&recipe, None, output, (args, args.how.unit)).map(|_| ()),
            [input] if !input.is_dir() => run_on(&recipe, Some(input), output, (args, args.how.unit)).map(|_| ()),
            inputs if ReleaseFormat::of_name(&output.to_string_lossy()) == Some(ReleaseFormat::ThreeMf) => {
                run_together(&recipe, &all_files(inputs)?, output, args)
            }
            _ => bail!("several files go into a folder (--into) or, together, into one .3mf"),
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
    let units = units(files, args);
    let mut rows = Vec::new();
    let mut some = SomeRefused { refused: 0, files: files.len(), readable: true };
    for (file, unit) in files.iter().zip(units) {
        let output = into.join(file.file_stem().unwrap_or_default()).with_extension(&args.ending);
        if !args.json {
            println!("== {}", file.display());
        }
        let told = match run_on(recipe, Some(file), &output, (args, unit)) {
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
    let width = rows.iter().map(|r| r.0.chars().count()).max().unwrap_or(0);
    if !args.json {
        println!("==");
        rows.iter().for_each(|(file, told)| println!("{file:width$}  {told}"));
    }
    if some.refused > 0 { Err(some.into()) } else { Ok(()) }
}

/// Runs a recipe on each file and writes all that comes of it into one 3MF; nothing where one part cannot leave.
fn run_together(recipe: &Recipe, files: &[PathBuf], output: &Path, args: &RunArgs) -> anyhow::Result<()> {
    if files.len() > MOST_TOGETHER {
        bail!("{} files; {MOST_TOGETHER} parts are the most in one file", files.len());
    }
    let (mut parts, mut told) = (Vec::new(), Vec::new());
    for (file, unit) in files.iter().zip(units(files, args)) {
        let shown = || file.display().to_string();
        say(args, || format!("== {}", shown()));
        let (run, notes) = done_on(recipe, Some(file), (args, unit)).with_context(shown)?;
        let name = file.file_stem().unwrap_or_default().to_string_lossy();
        for (number, mesh, examination) in bodies(&run).filter(|(number, ..)| !run.lost.contains(number)) {
            let (threads, steps) = marks_and_losses(recipe, &run, number);
            parts.push(PartToRelease {
                name: if number == 1 { name.to_string() } else { format!("{name}-{number}") },
                colour: PART_COLOUR,
                mesh: mesh.clone(),
                examination: examination.clone(),
                threads,
                losses: Losses { steps, may_lose: args.may_lose, accepted: false },
            });
        }
        told.push(serde_json::json!({ "input": file, "notes": notes, "steps": steps_told(&run) }));
        if parts.len() > MOST_TOGETHER {
            bail!("{MOST_TOGETHER} parts are the most in one file");
        }
    }
    if parts.is_empty() {
        bail!("{}: there is no body to be written", output.display());
    }
    let title = output.file_stem().unwrap_or_default().to_string_lossy();
    let released = release_together(&title, LengthUnit::Millimetre, &parts, &Progress::unwatched())
        .with_context(|| output.display().to_string())
        .and_then(|r| std::fs::write(output, &r.bytes).with_context(|| output.display().to_string()).map(|()| r.sheet));
    if args.json {
        let (sheet, refused) = (released.as_ref().ok(), released.as_ref().err().map(|e| format!("{e:#}")));
        println!("{}", serde_json::json!({ "inputs": told, "sheet": sheet, "not_written": refused }));
    }
    let sheet = released?;
    say(args, || {
        format!("{}: {} proved, {} bytes", output.display(), words::count(parts.len(), "part", "parts"), sheet.bytes)
    });
    Ok(())
}

/// The unit each file is read in.
fn units(files: &[PathBuf], args: &RunArgs) -> Vec<UnitArg> {
    if args.how.unit == UnitArg::Auto { units_of(files) } else { vec![args.how.unit; files.len()] }
}

/// Files of a set that do not tell their unit are taken to share one: it is guessed from all of their sizes. What cannot be read
/// is told when its turn comes.
fn units_of(files: &[PathBuf]) -> Vec<UnitArg> {
    let size = |file: &PathBuf| {
        let bytes = std::fs::read(file).ok()?;
        let (name, quiet) = (file.to_string_lossy(), Progress::unwatched());
        let model = read_model(&bytes[..], bytes.len() as u64, &name, &Limits::default(), &quiet).ok()?;
        model.unit.is_none().then(|| Aabb::of(model.mesh.points().iter().copied()))
    };
    let sizes: Vec<Option<Aabb>> = files.iter().map(size).collect();
    let untold: Vec<Aabb> = sizes.iter().flatten().copied().collect();
    let shared = match guess_unit(&untold).0 {
        // A single one is guessed, and doubted, when it is read.
        _ if untold.len() < 2 => UnitArg::Auto,
        LengthUnit::Metre => UnitArg::M,
        _ => UnitArg::Mm,
    };
    sizes.iter().map(|size| if size.is_some() { shared } else { UnitArg::Auto }).collect()
}

/// Runs a recipe on a file, or on nothing, and writes what comes of it.
fn run_on(
    recipe: &Recipe,
    input: Option<&Path>,
    output: &Path,
    (args, unit): (&RunArgs, UnitArg),
) -> anyhow::Result<Figures> {
    let Some(format) = ReleaseFormat::of_name(&output.to_string_lossy()) else {
        bail!("{}: the output must end in .3mf, .stl, .obj, .ply, .glb or .step", output.display());
    };
    let (run, notes) = done_on(recipe, input, (args, unit))?;
    let mut bodies = bodies(&run);
    let Some(first) = bodies.next() else { bail!("{}: there is no body to be written", output.display()) };
    let sheet = write_proved(output, format, (recipe, &run, first), args.may_lose);
    if args.json {
        let (sheet, refused) = (sheet.as_ref().ok(), sheet.as_ref().err().map(|e| format!("{e:#}")));
        println!(
            "{}",
            serde_json::json!({
                "input": input, "notes": notes, "steps": steps_told(&run), "sheet": sheet, "not_written": refused
            })
        );
    }
    let sheet = sheet?;
    say(args, || format!("{}: proved, {} bytes", output.display(), sheet.bytes));
    let name = output.file_stem().unwrap_or_default().to_string_lossy().into_owned();
    let ending = output.extension().unwrap_or_default().to_string_lossy();
    for (number, mesh, examination) in bodies {
        let name = format!("{name}-{number}");
        let path = output.with_file_name(format!("{name}.{ending}"));
        if run.lost.contains(&number) {
            let bytes = write_body(&Body { name: &name, colour: PART_COLOUR, mesh }, format, LengthUnit::Millimetre)?;
            std::fs::write(&path, &bytes).with_context(|| path.display().to_string())?;
            say(args, || {
                let shown = path.display();
                format!("{shown}: what was lost, a surface and no solid, not proved, {} bytes", bytes.len())
            });
            continue;
        }
        let sheet = write_proved(&path, format, (recipe, &run, (number, mesh, examination)), args.may_lose)?;
        say(args, || format!("{}: proved, {} bytes", path.display(), sheet.bytes));
    }
    Ok(first.2.figures.clone())
}

/// What is for people to read, unless it is for a program.
fn say(args: &RunArgs, line: impl FnOnce() -> String) {
    if !args.json {
        println!("{}", line());
    }
}

/// Runs a recipe on a file, or on nothing, and tells what its steps did; also what was told on reading.
fn done_on(
    recipe: &Recipe,
    input: Option<&Path>,
    (args, unit): (&RunArgs, UnitArg),
) -> anyhow::Result<(RecipeRun, Vec<String>)> {
    let (mesh, notes) = match input {
        Some(input) => read(input, &ReadArgs { unit, ..args.how }).map(|part| (part.mesh, part.notes))?,
        None => (Mesh::default(), vec![]),
    };
    notes.iter().for_each(|note| say(args, || format!("note: {note}")));
    let run = run_recipe(recipe, mesh, &Progress::unwatched())?;
    let lines = run.steps.iter().flat_map(|(title, step)| step_lines(title, step.as_ref()));
    lines.for_each(|line| say(args, || line));
    Ok((run, notes))
}

/// The bodies a recipe left, with their numbers; profiles are what bodies were made of, no bodies.
fn bodies(run: &RecipeRun) -> impl Iterator<Item = (u32, &Mesh, &Examination)> {
    let all = std::iter::once((1, &run.mesh, &run.examination)).chain(run.others.iter().map(|(n, p)| (*n, &p.0, &p.1)));
    all.filter(|(_, mesh, _)| mesh.drawn().is_none() && !mesh.triangles().is_empty())
}

/// The threads of a part that are not cut, and what its steps lost.
fn marks_and_losses(recipe: &Recipe, run: &RecipeRun, number: u32) -> (Vec<ThreadMark>, Vec<Loss>) {
    let own = recipe.steps.iter().zip(&run.steps).filter(|(step, _)| step.part == number);
    let reports = || own.clone().filter_map(|(step, (_, report))| Some((&step.action, report.as_ref().ok()?)));
    let threads = reports().flat_map(|(_, r)| r.threads.iter().filter(|t| !t.made).cloned()).collect();
    (threads, reports().filter_map(|(action, report)| Loss::of(action, report)).collect())
}

/// What the steps of a recipe did, for programs.
fn steps_told(run: &RecipeRun) -> Vec<serde_json::Value> {
    let told = |(title, step): &(String, Result<StepReport, String>)| match step {
        Ok(report) => serde_json::json!({ "title": title, "report": report }),
        Err(why) => serde_json::json!({ "title": title, "nothing_to_do": why }),
    };
    run.steps.iter().map(told).collect()
}

/// Writes a part that a recipe left, if it is proved a solid.
fn write_proved(
    path: &Path,
    format: ReleaseFormat,
    (recipe, run, (number, mesh, seen)): (&Recipe, &RecipeRun, (u32, &Mesh, &Examination)),
    may_lose: f64,
) -> anyhow::Result<CheckSheet> {
    let (threads, steps) = marks_and_losses(recipe, run, number);
    let name = path.file_stem().unwrap_or_default().to_string_lossy();
    let losses = Losses { steps, may_lose, accepted: false };
    let wanted = ReleaseAs { name: &name, colour: PART_COLOUR, format, unit: LengthUnit::Millimetre, losses };
    let released =
        release(&wanted, mesh, seen, &threads, &Progress::unwatched()).with_context(|| path.display().to_string())?;
    std::fs::write(path, &released.bytes).with_context(|| path.display().to_string())?;
    Ok(released.sheet)
}

/// What a step did, line by line.
fn step_lines(title: &str, step: Result<&StepReport, &String>) -> Vec<String> {
    let mut lines = vec![title.to_owned()];
    match step {
        Err(why) => lines.push(format!("  nothing to do: {why}")),
        Ok(report) => {
            lines.extend(report.done.iter().map(|d| format!("  {d}")));
            lines.extend(report.left.iter().map(|l| format!("  left: {l}")));
            lines.extend(report.instead.iter().map(|i| format!("  instead: {}", i.label)));
            lines.extend(report.notices.iter().map(|n| format!("  note: {}, {}", n.text, at(n.place.centre))));
            lines.extend(report.harm.iter().flat_map(harm_lines).map(|l| format!("  {l}")));
            let before = report.before.as_ref().map_or("", |b| &b.reason);
            // Of a step that leaves the part as it is, what it makes is what counts.
            if report.made.is_empty() || before != report.after.reason {
                lines.push(format!("  {before} → {}", report.after.reason));
            }
            lines.extend(report.made.iter().map(|made| format!("  made {}: {}", called(made), made.figures.reason)));
        }
    }
    lines
}

/// What a further part is called; where that is after the part it was made of, that is left out.
fn called(made: &MadePart) -> &str {
    match &made.called {
        Some(Called::Plain(name) | Called::Of(name)) => name,
        Some(Called::As(_)) | None => "a part",
    }
}

/// What was lost, swallowed and invented, as far as something was.
pub fn harm_lines(harm: &HarmFacts) -> Vec<String> {
    let rows = [("lost", &harm.lost), ("swallowed", &harm.swallowed), ("invented", &harm.invented)];
    let some = rows.into_iter().filter(|(_, far)| far.area > 0.0);
    some.map(|(what, far)| {
        let at = far.at().map_or_else(String::new, |p| format!(", most {}", at(p.centre)));
        format!("{what} {}{at}", far.told())
    })
    .collect()
}

fn at(place: [f64; 3]) -> String {
    let [x, y, z] = place.map(words::figure);
    format!("at ({x}, {y}, {z}) mm")
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
    for drawn in nimbet_trade::demo::DRAWN {
        let path = folder.join(format!("{}.json", drawn.key));
        std::fs::write(&path, drawn.recipe)?;
        println!("{}", path.display());
    }
    Ok(())
}
