//! What is to be seen of a profile: chains, ends, gaps, where it meets itself, what lies double, what is a speck, its regions.

use nimbet_kernel::{Aabb, Bvh, Cancelled, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::network::Network;
use crate::{Flat, Region};

/// All that is known of a profile.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Look {
    /// How many curves it has.
    pub curves: usize,
    /// Their length together, mm.
    pub length: f64,
    /// The least corner of a box round it, mm.
    pub least: [f64; 2],
    /// The size of that box, mm.
    pub size: [f64; 2],
    /// Its chains that are closed.
    pub closed: usize,
    /// Its chains that are open.
    pub open: usize,
    /// Ends nothing goes on from.
    pub ends: Vec<FreeEnd>,
    /// Places where lines cross or touch.
    pub crossings: Vec<Crossing>,
    /// Stretches that lie on another line.
    pub doubles: Vec<Double>,
    /// Lines too short to have been meant.
    pub specks: Vec<Speck>,
    /// What its lines enclose, the outermost first.
    pub regions: Vec<RegionFacts>,
}

/// An end nothing goes on from.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FreeEnd {
    /// Where, mm.
    pub at: [f64; 2],
    /// The curve that ends there.
    pub line: String,
    /// The nearest other free end.
    pub nearest: Option<NearEnd>,
}

/// The free end nearest to another.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct NearEnd {
    /// Its number in the list.
    pub end: usize,
    /// How far it is, mm.
    pub apart: f64,
}

impl Look {
    /// Pairs of free ends of which each is the other's nearest: their numbers, and how far apart they are, mm.
    pub fn gaps(&self) -> impl Iterator<Item = (usize, usize, f64)> {
        self.ends.iter().enumerate().filter_map(|(n, end)| {
            let NearEnd { end: other, apart } = end.nearest?;
            let mutual = self.ends[other].nearest.is_some_and(|back| back.end == n);
            (mutual && n < other).then_some((n, other, apart))
        })
    }
}

/// A place where lines cross or touch.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Crossing {
    /// Where, mm.
    pub at: [f64; 2],
    /// The curves.
    pub lines: Vec<String>,
    /// Whether one of them only ends there.
    pub ends: bool,
}

/// A stretch that lies on another line.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Double {
    /// The middle of it, mm.
    pub at: [f64; 2],
    /// The curve that came later.
    pub line: String,
    /// The one it lies on.
    pub on: String,
    /// How long it is, mm.
    pub length: f64,
}

/// A line too short to have been meant.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Speck {
    /// Where, mm.
    pub at: [f64; 2],
    /// The curve.
    pub line: String,
    /// How long it is, mm.
    pub length: f64,
}

/// What is known of a region.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct RegionFacts {
    /// A place well inside, mm.
    pub at: [f64; 2],
    /// Its area without its holes, mm².
    pub area: f64,
    /// The length of its border and of the borders of its holes, mm.
    pub round: f64,
    /// How many holes it has.
    pub holes: usize,
    /// In how many others it lies; those of even depth are meant where nothing was picked.
    pub depth: usize,
    /// The curves of its border, sorted.
    pub lines: Vec<String>,
}

/// A line shorter than this, mm, with no others beside it is a slip of the hand or of a file.
const SPECK: f64 = 0.01;

/// Curves that go on from each other, in order; `true` where one is run backward.
#[derive(Clone, Debug, PartialEq)]
pub struct Chain {
    /// The curves.
    pub curves: Vec<(usize, bool)>,
    /// Whether the last ends where the first begins.
    pub closed: bool,
}

/// Looks at a profile.
///
/// # Errors
/// [`Cancelled`].
pub fn look(network: &Network, regions: &[Region], progress: &Progress) -> Result<Look, Cancelled> {
    progress.check()?;
    let chains = network.chains();
    let name = |curve: usize| network.curves[curve].name.clone();
    let (least, most) = if network.curves.is_empty() { (Flat::ZERO, Flat::ZERO) } else { network.bounds() };
    let mut crossings = Vec::new();
    for (place, meets) in network.meets.iter().enumerate() {
        let others = meets.through.len();
        if others > 1 || others == 1 && !meets.ends.is_empty() || meets.ends.len() > 2 {
            let mut lines: Vec<String> = meets.through.iter().chain(&meets.ends).map(|c| name(*c)).collect();
            lines.sort();
            lines.dedup();
            crossings.push(Crossing { at: network.places[place].to_array(), lines, ends: !meets.ends.is_empty() });
        }
    }
    let doubles = network.doubles.iter().map(|(piece, on)| Double {
        at: piece.span.at(0.5).to_array(),
        line: name(piece.curve),
        on: name(network.pieces[*on].curve),
        length: piece.span.length(),
    });
    let length = |c: &usize| network.curves[*c].spans.iter().map(crate::Span::length).sum::<f64>();
    let specks = chains.iter().filter(|c| c.curves.iter().map(|(c, _)| length(c)).sum::<f64>() < SPECK);
    let specks = specks.map(|chain| {
        let first = chain.curves[0].0;
        let at = network.curves[first].spans[0].from().to_array();
        Speck { at, line: name(first), length: chain.curves.iter().map(|(c, _)| length(c)).sum() }
    });
    Ok(Look {
        curves: network.curves.len(),
        length: (0..network.curves.len()).map(|c| length(&c)).sum(),
        least: least.to_array(),
        size: (most - least).to_array(),
        closed: chains.iter().filter(|c| c.closed).count(),
        open: chains.iter().filter(|c| !c.closed).count(),
        ends: free_ends(network),
        crossings,
        doubles: doubles.collect(),
        specks: specks.collect(),
        regions: regions.iter().map(|r| facts(network, r)).collect(),
    })
}

fn facts(network: &Network, region: &Region) -> RegionFacts {
    RegionFacts {
        at: region.inside.to_array(),
        area: region.area,
        round: region.outlines.iter().flatten().map(|s| network.side(*s).length()).sum(),
        holes: region.outlines.len() - 1,
        depth: region.depth,
        lines: network.border(region),
    }
}

fn free_ends(network: &Network) -> Vec<FreeEnd> {
    let loose = |m: &&crate::network::Meets| m.ends.len() == 1 && m.through.is_empty();
    let places: Vec<(Flat, usize)> =
        network.meets.iter().zip(&network.places).filter(|(m, _)| loose(m)).map(|(m, p)| (*p, m.ends[0])).collect();
    let lifted = |p: Flat| Point::new(p.x, p.y, 0.0);
    let bvh = Bvh::new(places.iter().map(|p| Aabb::of([lifted(p.0)])).collect());
    let nearest = |n: usize| {
        let far = |m: u32| (m as usize != n).then(|| places[m as usize].0.distance_squared(places[n].0));
        let (m, apart) = bvh.nearest(lifted(places[n].0), f64::INFINITY, far)?;
        Some(NearEnd { end: m as usize, apart })
    };
    let end = |n: usize| FreeEnd {
        at: places[n].0.to_array(),
        line: network.curves[places[n].1].name.clone(),
        nearest: nearest(n),
    };
    (0..places.len()).map(end).collect()
}

impl Network {
    /// The names of the curves of a region's border, sorted.
    pub fn border(&self, region: &Region) -> Vec<String> {
        let mut lines: Vec<String> =
            region.outlines[0].iter().map(|(p, _)| self.curves[self.pieces[*p].curve].name.clone()).collect();
        lines.sort();
        lines.dedup();
        lines
    }

    /// The chains: curves joined where exactly two of them end and nothing goes through.
    pub fn chains(&self) -> Vec<Chain> {
        // For both ends of each curve the curve that goes on there, and whether with its end.
        let mut on: Vec<[Option<(usize, bool)>; 2]> = vec![[None; 2]; self.curves.len()];
        let end_of = |c: usize, place: usize| {
            let (spans, here) = (&self.curves[c].spans, self.places[place]);
            let (begin, end) = (spans[0].from(), spans[spans.len() - 1].to());
            begin.distance(here) > end.distance(here)
        };
        for (place, meets) in self.meets.iter().enumerate() {
            if let ([a, b], []) = (&meets.ends[..], &meets.through[..]) {
                let (p, q) = (end_of(*a, place), end_of(*b, place));
                // Both ends of one curve are one place only where it is closed, and then they are no ends.
                on[*a][usize::from(p)] = Some((*b, q));
                on[*b][usize::from(q)] = Some((*a, p));
            }
        }
        let mut taken = vec![false; self.curves.len()];
        let mut chains = Vec::new();
        for start in 0..self.curves.len() {
            if taken[start] {
                continue;
            }
            if self.is_closed(start) {
                taken[start] = true;
                chains.push(Chain { curves: vec![(start, false)], closed: true });
                continue;
            }
            // Back to where it begins, then along.
            let mut first = (start, false);
            let mut closed = false;
            while let Some((before, ends)) = on[first.0][usize::from(first.1)] {
                first = (before, !ends);
                if before == start {
                    closed = true;
                    first = (start, false);
                    break;
                }
            }
            let (mut curves, mut at) = (vec![first], first);
            taken[first.0] = true;
            while let Some((next, ends)) = on[at.0][usize::from(!at.1)] {
                if taken[next] {
                    break;
                }
                at = (next, ends);
                taken[next] = true;
                curves.push(at);
            }
            chains.push(Chain { curves, closed });
        }
        chains
    }
}
