//! Examines a part: its figures, and every finding with place, size and cause. What remedies them the tools say (`remedies.rs`).
//!
//! A pass family over one topology, linear but for the search for crossings. Cost for 1,000,000 triangles: about one and a half seconds on two cores.

mod about;
mod bend;
pub(crate) mod border;
mod corners;
mod face_facts;
mod face_pick;
mod figures;
mod finding;
mod gaps;
mod rim_facts;
mod shell_facts;
mod tangles;
mod triangles;
mod write_up;

use nimbet_kernel::compare::Compared;
use nimbet_kernel::crossings::{crossing_pairs, crossing_pairs_after, triangle_bvh};
use nimbet_kernel::measure::{Measure, measure};
use nimbet_kernel::rims::rims;
use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::{Cancelled, Mesh, Progress, fans};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

pub use about::{About, NamedRim};
pub(crate) use about::{SPECK_SHARE, brace_radius, one_digit, sheet_wall};
pub(crate) use corners::naked_points;
pub use corners::{CornerBin, CornerHistogram, corner_histogram};
pub(crate) use face_facts::face_surface;
pub(crate) use face_facts::facts_of;
pub use face_facts::{FaceFacts, FaceSurface, face_facts};
pub use face_pick::{FaceAnchor, FacePick};
pub use figures::{Figures, PartState};
pub use finding::{Finding, FindingKind, Place, Remedy, Severity};
use gaps::JunctionFacts;
pub use gaps::{GapFacts, GapPick};
pub(crate) use gaps::{points_along, reach_for};
pub(crate) use rim_facts::mean_plane;
pub use rim_facts::{RimFacts, RimPick, RimPlace, chain_points, name_rims};
pub use shell_facts::{Nesting, ShellFacts, ShellRole, nesting};
pub use tangles::{TangleFacts, TangleKind};
pub(crate) use triangles::{degenerate_triangles, duplicate_triangles, is_degenerate};
use triangles::{folded_edges, same_triangle, sliver_triangles};

use crate::weigh::Weighing;

/// All that is known of a part.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Examination {
    /// The figures.
    pub figures: Figures,
    /// What is wrong or worth knowing, the worst first.
    pub findings: Vec<Finding>,
    /// The rims, the longest first: R1, R2 …
    pub rims: Vec<RimFacts>,
    /// Runs of naked edges that face each other: G1, G2 …
    pub gaps: Vec<GapFacts>,
    /// The connected pieces, the largest first.
    pub shells: Vec<ShellFacts>,
    /// Places where the surface passes through itself, the largest first: X1, X2 …
    pub tangles: Vec<TangleFacts>,
    /// Triangles that cross others, for drawing; cut off at a number no eye can tell apart.
    pub tangle: Vec<u32>,
    /// How far the nearest counterparts of corners on naked edges are; of open parts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub corners: Option<CornerHistogram>,
    /// Whether it is one sheet that is meant to be one: a terrain, a relief, a panel.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub sheet: bool,
    /// Volume, area, centre of mass, inertia.
    pub weighing: Weighing,
}

/// The most crossing triangles kept for drawing.
const MOST_TANGLE: usize = 50_000;
/// The most shells listed one by one; all are counted.
const MOST_SHELLS: usize = 500;

/// What the passes found, for the write-up.
pub(crate) struct Survey<'a> {
    pub mesh: &'a Mesh,
    pub topology: &'a Topology<'a>,
    pub rims: Vec<RimFacts>,
    pub gaps: Vec<GapFacts>,
    pub junctions: Vec<JunctionFacts>,
    pub nesting: Nesting,
    pub clashing: Vec<u32>,
    pub crowded: Vec<u32>,
    pub touching: Vec<u32>,
    pub duplicates: Vec<u32>,
    pub degenerate: Vec<u32>,
    pub slivers: Vec<u32>,
    pub folds: Vec<u32>,
    pub crossings: Vec<(u32, u32)>,
    pub crossing_in_gaps: usize,
    pub tangles: Vec<TangleFacts>,
    pub diagonal: f64,
    pub corners: Option<CornerHistogram>,
    pub sheet: bool,
}

impl Survey<'_> {
    /// How far the largest shell is across, mm.
    fn across(&self) -> f64 {
        self.nesting.shells.iter().map(|s| s.extent).fold(0.0, f64::max)
    }
}

/// An examination, and what the next one can build on.
#[derive(Clone, Debug)]
pub struct Seen {
    /// All that is known of the part.
    pub examination: Examination,
    /// All pairs of triangles that cross, ascending.
    pub crossings: Vec<(u32, u32)>,
}

/// What is known of a part before something was done to it: its triangles beside those it has now, and which of them crossed.
#[derive(Clone, Copy, Debug)]
pub struct Known<'a> {
    /// The part before and now.
    pub surfaces: &'a Compared<'a>,
    /// All pairs that crossed before, ascending.
    pub crossings: &'a [(u32, u32)],
}

impl Examination {
    /// The crossing pairs, where it says that there are none.
    pub fn no_crossings(&self) -> Option<&'static [(u32, u32)]> {
        (self.figures.crossing_pairs == 0 && self.figures.crossing_in_gaps == 0).then_some(&[])
    }
}

/// Examines a mesh; of one that was known before something was done to it, only what is new is searched for crossings.
///
/// # Errors
/// [`Cancelled`].
pub(crate) fn look(mesh: &Mesh, known: Option<Known<'_>>, progress: &Progress) -> Result<Seen, Cancelled> {
    progress.report(0.0, "finding edges")?;
    let built = std::cell::OnceCell::new();
    let (topology, bvh) = rayon::join(
        || Topology::new(mesh.triangles(), mesh.points().len()),
        || known.is_none().then(|| triangle_bvh(mesh)),
    );
    let bvh = match (known, bvh) {
        (Some(known), _) => known.surfaces.after_bvh(),
        (None, bvh) => built.get_or_init(|| bvh.unwrap_or_else(|| triangle_bvh(mesh))),
    };
    progress.report(0.15, "measuring")?;
    let measure = measure(mesh);
    let diagonal = measure.bounds.diagonal();
    let (named, rims) = name_rims(mesh, rims(&topology));
    progress.report(0.2, "looking for gaps")?;
    let found = gaps::find(mesh, &topology, &named, &rims, diagonal, progress)?;
    progress.report(0.3, "looking for crossings")?;
    let all = match known {
        None => crossing_pairs(mesh, bvh, progress)?,
        Some(known) => crossing_pairs_after(known.surfaces, known.crossings, progress)?,
    };
    // Two sides of a gap may overlap a little; that is the gap's doing, and goes when it is closed.
    let at_gap = |t: u32| mesh.triangles()[t as usize].iter().any(|v| found.points.contains(v));
    let crossings: Vec<(u32, u32)> = all.iter().copied().filter(|&(a, b)| !(at_gap(a) && at_gap(b))).collect();
    progress.report(0.7, "looking for shells")?;
    let (nesting, (touching, (degenerate, (slivers, folds)))) = rayon::join(
        || nesting(mesh, &topology, bvh, progress),
        || {
            let small = || (degenerate_triangles(mesh), (sliver_triangles(mesh), folded_edges(mesh, &topology)));
            (fans::touch_points(&topology), small())
        },
    );
    let nesting = nesting?;
    progress.report(0.9, "writing it up")?;
    let corners = corner_histogram(mesh, &topology, progress)?;
    // A triangle there twice has a finding of its own.
    let twice = |&(a, b): &(u32, u32)| same_triangle(mesh.triangles()[a as usize], mesh.triangles()[b as usize]);
    let through: Vec<(u32, u32)> = crossings.iter().copied().filter(|pair| !twice(pair)).collect();
    let tangles = tangles::gather(mesh, bvh, &through, &nesting.shell_of);
    let mut survey = Survey {
        mesh,
        rims,
        gaps: found.gaps,
        junctions: found.junctions,
        nesting,
        clashing: topology.edges_with(EdgeUse::Clashing).collect(),
        crowded: topology.edges_with(EdgeUse::Crowded).collect(),
        touching,
        duplicates: duplicate_triangles(&topology),
        degenerate,
        slivers,
        folds,
        crossing_in_gaps: all.len() - crossings.len(),
        crossings,
        tangles,
        diagonal,
        corners,
        sheet: false,
        topology: &topology,
    };
    survey.sheet = is_sheet(&survey);
    Ok(Seen { examination: written_up(survey, &measure, &through), crossings: all })
}

/// What was found, in words and figures; `through` are the pairs that pass through each other.
fn written_up(survey: Survey<'_>, measure: &Measure, through: &[(u32, u32)]) -> Examination {
    let figures = figures::figures(&survey, measure);
    let findings = write_up::findings(&survey);
    let mut tangle: Vec<u32> = through.iter().flat_map(|&(a, b)| [a, b]).collect();
    tangle.sort_unstable();
    tangle.dedup();
    tangle.truncate(MOST_TANGLE);
    let mut shells = survey.nesting.shells;
    shells.truncate(MOST_SHELLS);
    let weighing = Weighing::new(&figures, measure);
    // The rims of a profile are its outlines, nothing to be mended; what is wrong with it the board tells.
    let drawn = figures.drawn;
    Examination {
        findings: if drawn { vec![] } else { findings },
        rims: if drawn { vec![] } else { survey.rims },
        gaps: if drawn { vec![] } else { survey.gaps },
        figures,
        shells,
        tangles: survey.tangles,
        tangle,
        corners: survey.corners,
        sheet: survey.sheet,
        weighing,
    }
}

/// Whether a part is one sheet that is meant to be one: one piece with one long border, facing one way on the whole.
fn is_sheet(survey: &Survey<'_>) -> bool {
    /// The share of the naked edges' length that the border must have; the rest are holes in it.
    const BORDER: f64 = 0.5;
    /// How much of its area a sheet shows from where it shows most: a half ball shows half of it.
    const FACING: f64 = 0.6;
    /// The share of the area that loose bits beside the sheet may have.
    const LOOSE: f64 = 0.01;
    let naked: f64 = survey.rims.iter().map(|r| r.length).sum();
    let one_border = survey.rims.first().is_some_and(|r| r.closed && r.length > BORDER * naked);
    if !one_border || !survey.crowded.is_empty() {
        return false;
    }
    let area = |t: usize| survey.mesh.area_vector(t);
    let triangles = survey.mesh.triangles().len();
    let whole: f64 = (0..triangles).map(|t| area(t).length()).sum();
    let mut of_shell = vec![(0.0, nimbet_kernel::Point::ZERO); survey.nesting.count];
    for t in 0..triangles {
        let held = &mut of_shell[survey.nesting.shell_of[t] as usize];
        held.0 += area(t).length();
        held.1 += area(t);
    }
    of_shell.iter().any(|(own, shown)| *own >= (1.0 - LOOSE) * whole && shown.length() > FACING * own)
}
