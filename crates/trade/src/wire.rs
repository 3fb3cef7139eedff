//! Wires: lines in space without a surface, as parts that know them. They come from files and are what paths are made of.

use nimbet_kernel::{Aabb, Drawn, Mesh, Point};
use nimbet_profile::path::Path;
pub use nimbet_profile::space::Strand;
use nimbet_profile::space::{Strands, chained};
use serde::{Deserialize, Serialize};

use crate::TradeError;

/// Ends are one that are nearer than this, mm …
pub const MEET: f64 = 1e-3;
/// … and, of one wire, than this share of what its lines reach.
const MEET_SHARE: f64 = 1e-4;

/// What is kept with the sheet that shows a wire.
#[derive(Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
struct Kept {
    wire: Vec<Strand>,
}

/// Lines in space, in chains.
pub struct Wire {
    /// The chains, by number from 1.
    pub chains: Vec<Strands>,
}

/// Whether a part is a wire.
pub fn is_wire(mesh: &Mesh) -> bool {
    mesh.drawn().is_some_and(|drawn| drawn.bytes().starts_with(br#"{"wire":"#))
}

impl Wire {
    /// The wire a part is.
    pub fn of(mesh: &Mesh) -> Option<Self> {
        let drawn = mesh.drawn().filter(|_| is_wire(mesh))?;
        let kept: Kept = serde_json::from_slice(drawn.bytes()).ok()?;
        Some(Self { chains: in_chains(&kept.wire) })
    }

    /// How far it reaches.
    pub fn bounds(&self) -> Aabb {
        reach(self.chains.iter().flat_map(|c| &c.strands))
    }

    /// A wire moved and turned as a whole stays one: `out` is its sheet, where `put` moved it to.
    pub(crate) fn moved(&self, out: Mesh, put: &dyn Fn(Point) -> Point) -> Result<Mesh, TradeError> {
        let wire = self.chains.iter().flat_map(|c| &c.strands).map(|s| s.put(put)).collect();
        kept(out, wire)
    }
}

/// The sheet that shows lines, as a wire of them.
pub(crate) fn kept(sheet: Mesh, wire: Vec<Strand>) -> Result<Mesh, TradeError> {
    let bytes = serde_json::to_vec(&Kept { wire }).map_err(|e| TradeError::refused(e.to_string(), vec![]))?;
    Ok(sheet.drawn_as(Some(Drawn::from(bytes))))
}

/// Lines that hang together, end to end.
pub(crate) fn in_chains(strands: &[Strand]) -> Vec<Strands> {
    chained(strands, MEET.min(reach(strands.iter()).diagonal() * MEET_SHARE))
}

/// How far lines reach, as far as places along them tell.
pub fn reach<'a>(strands: impl Iterator<Item = &'a Strand>) -> Aabb {
    const LOOKED_AT: u32 = 8;
    Aabb::of(strands.flat_map(|s| (0..=LOOKED_AT).map(|k| s.at(f64::from(k) / f64::from(LOOKED_AT)))))
}

/// The chain a number names, or the only one.
///
/// # Errors
/// Where there are several and none is named, or none of that number.
pub fn chain_of(wire: &Wire, named: Option<&str>) -> Result<Path, TradeError> {
    const TOLD: usize = 12;
    match (named.map(|n| n.trim().parse::<usize>()), &wire.chains[..]) {
        (None, [only]) => Ok(only.path()),
        (Some(Ok(n)), chains) if (1..=chains.len()).contains(&n) => Ok(chains[n - 1].path()),
        (Some(_), chains) => {
            let why = format!("the wire has no line '{}': they are 1 to {}", named.unwrap_or_default(), chains.len());
            Err(TradeError::refused(why, vec![]))
        }
        (None, chains) => {
            let why = format!(
                "the wire has {} lines that do not hang together: say which it takes (1 to {})",
                chains.len(),
                chains.len()
            );
            let begin = |c: &Strands| c.strands.first().map(|s| s.at(0.0));
            Err(TradeError::refused(why, chains.iter().take(TOLD).filter_map(begin).collect()))
        }
    }
}
