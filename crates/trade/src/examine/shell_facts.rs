//! Shells: what each connected piece is, and how they lie inside each other.

use nimbet_kernel::inside::shells_around;
use nimbet_kernel::measure::measure_triangles;
use nimbet_kernel::topology::{EdgeUse, Topology};
use nimbet_kernel::{Bvh, Cancelled, Mesh, Progress, shells};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::words::{Xyz, xyz};

/// What a shell is within its part.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ShellRole {
    /// It bounds a body from outside.
    #[default]
    Outside,
    /// It bounds empty space within a body.
    Void,
    /// It lies within the material of another shell and bounds nothing there.
    Stray,
    /// It is not closed, and lies in no closed shell.
    Open,
}

/// The measures of one shell.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct ShellFacts {
    /// Its number in the mesh.
    pub number: u32,
    /// Triangles.
    pub triangles: usize,
    /// Area, mm².
    pub area: f64,
    /// Signed volume, mm³; only for closed shells whose sides agree.
    pub volume: Option<f64>,
    /// Twice the farthest of its corners from the middle of them, mm.
    pub extent: f64,
    /// The middle of its bounding box, mm.
    pub centre: Xyz,
    /// Whether it has no naked edges, edges of three or clashing edges.
    pub closed: bool,
    /// How many other closed shells it lies in.
    pub depth: usize,
    /// What it is.
    pub role: ShellRole,
    /// Whether it is closed but faces the wrong way.
    pub inside_out: bool,
}

/// All shells of a mesh.
pub struct Nesting {
    /// The shell of each triangle.
    pub shell_of: Vec<u32>,
    /// The shells, the largest first.
    pub shells: Vec<ShellFacts>,
    /// How many there are.
    pub count: usize,
}

/// Finds the shells and how they nest. Parity of the closed shells round a shell decides which way it must face: a shell in
/// one other bounds a void if it faces inward and is a stray if not, a shell in two is a body again.
///
/// # Errors
/// [`Cancelled`].
pub fn nesting(mesh: &Mesh, topology: &Topology<'_>, bvh: &Bvh, progress: &Progress) -> Result<Nesting, Cancelled> {
    let (shell_of, count) = shells::shells(topology);
    let mut closed = vec![true; count];
    for edge in 0..topology.edge_count() as u32 {
        if topology.edge_use(edge) != EdgeUse::Regular {
            closed[shell_of[topology.halves(edge)[0] as usize / 3] as usize] = false;
        }
    }
    let mut members: Vec<Vec<u32>> = vec![Vec::new(); count];
    for (t, &shell) in shell_of.iter().enumerate() {
        members[shell as usize].push(t as u32);
    }
    let closed_shells = closed.contains(&true);
    let mut shells = Vec::with_capacity(count);
    for (shell, triangles) in members.iter().enumerate() {
        progress.check()?;
        let m = measure_triangles(mesh, triangles);
        let depth = if count > 1 && closed_shells {
            depth_of(mesh, bvh, &shell_of, &closed, shell as u32, triangles)
        } else {
            0
        };
        // A closed shell within another that faces inward bounds a void; one that faces outward there bounds nothing.
        let within = depth % 2 == 1;
        let role = match (closed[shell], within) {
            (_, true) if !closed[shell] || m.volume > 0.0 => ShellRole::Stray,
            (true, true) => ShellRole::Void,
            (true, false) => ShellRole::Outside,
            (false, _) => ShellRole::Open,
        };
        shells.push(ShellFacts {
            number: shell as u32,
            triangles: triangles.len(),
            area: m.area,
            volume: closed[shell].then_some(m.volume),
            extent: shells::across(mesh, triangles),
            centre: xyz(m.bounds.centre()),
            closed: closed[shell],
            depth,
            role,
            inside_out: closed[shell] && m.volume != 0.0 && (m.volume < 0.0) != within,
        });
    }
    shells.sort_by(|a, b| b.extent.total_cmp(&a.extent).then(a.number.cmp(&b.number)));
    Ok(Nesting { shell_of, shells, count })
}

/// How many closed shells lie round this one. Tries corner points until one gives a clear answer.
fn depth_of(mesh: &Mesh, bvh: &Bvh, shell_of: &[u32], closed: &[bool], shell: u32, triangles: &[u32]) -> usize {
    /// Points tried: more than this many in a row all touching other shells means the shells coincide.
    const TRIES: usize = 64;
    let step = (triangles.len() / TRIES).max(1);
    triangles
        .iter()
        .step_by(step)
        .find_map(|&t| shells_around(mesh, bvh, shell_of, mesh.corners(t as usize)[0], shell))
        .map_or(0, |around| around.into_iter().filter(|&s| closed[s as usize]).count())
}
