//! Runs that meet end to end, and what is passed over along them: bends tighter than the section, on their hollow side.
//!
//! What comes along the edges before and after such a bend goes on straight, and meets in a mitre as at a corner. So does what
//! comes before and after a stretch, or a run no longer than the section, that is shorter than what those beside it take of it by
//! where they cross.

use std::collections::BTreeMap;

use nimbet_kernel::Point;

use crate::bends::{Stretch, Stretches};
use crate::carve::EdgeError;
use crate::plan::{Cause, Planner, Spine, Trouble, Wanted, folded};
use crate::station::{Section, Station};

/// Stretches turn by less than this from one to the next, degrees: beyond that their mitre would reach too far.
const SHARPEST: f64 = 150.0;
/// Two stretches may stand off what bends evenly from one to the other by this share of the section.
const SLACK: f64 = 0.05;
/// They reach no farther beyond their ends than so many times the section.
const FARTHEST: f64 = 2.0;

/// A run: the sections all along it, or why there are none and the stretches that have some.
struct Part {
    whole: Result<Spine, Trouble>,
    stretches: Stretches,
}

/// A stretch, a run that is one, or one no section finds a hold on.
struct Node {
    part: usize,
    /// Its first and last section.
    ends: Option<[Station; 2]>,
    length: f64,
    size: f64,
    /// What comes before and after it.
    links: [Option<Link>; 2],
    goes: bool,
}

/// What comes next to an end of a stretch.
#[derive(Clone, Copy)]
struct Link {
    node: usize,
    /// Which end of that.
    end: usize,
    /// Whether something is passed over between.
    gap: bool,
    /// How much either end goes beyond where they cross, mm; none where they do not.
    beyond: Option<[f64; 2]>,
    /// How far from there they turn into each other, radians.
    turn: f64,
}

/// What a run meets at an end of it beyond what is passed over.
#[derive(Clone, Copy, Debug)]
pub struct Meeting {
    /// The section there.
    pub station: Station,
    /// The way on from there.
    pub onward: Point,
}

/// An end of sections at what is passed over.
#[derive(Clone, Copy, Debug)]
pub struct Bend {
    /// The place of the last section.
    pub here: Point,
    /// The place of the next one beyond it.
    pub there: Point,
    /// How much of what comes before it what comes after it takes, mm.
    pub taken: f64,
}

/// How much the lines of two ends go beyond where they cross, mm, the way out of each given: along both faces and the middle.
fn crossings((a, u): (&Station, Point), (b, w): (&Station, Point)) -> Option<Vec<[f64; 2]>> {
    let cos = u.dot(w);
    let sine = 1.0 - cos * cos;
    if -cos < SHARPEST.to_radians().cos() || sine < 1e-9 {
        return None;
    }
    // Feet of the faces they share, whichever way round the other runs.
    let same = u.dot(a.along) * w.dot(b.along) < 0.0;
    let feet = if same { b.feet } else { [b.feet[1], b.feet[0]] };
    let lines = [(a.feet[0], feet[0]), (a.feet[1], feet[1])].into_iter().chain(a.centre.zip(b.centre));
    // Where each of two lines is nearest to the other.
    let beyond = |(p, q): (Point, Point)| {
        let (x, y) = ((q - p).dot(u), (q - p).dot(w));
        [(cos * y - x) / sine, (y - cos * x) / sine]
    };
    Some(lines.map(beyond).collect())
}

/// How much two ends go beyond where they cross, mm; none where they do not.
fn beyond_crossing(a: (&Station, Point), b: (&Station, Point)) -> Option<[f64; 2]> {
    crossings(a, b)?.into_iter().max_by(|x, y| (x[0] + x[1]).total_cmp(&(y[0] + y[1])))
}

/// How far beyond an end its lines go before the last of them meets those of another end, mm.
pub(crate) fn until_met((a, u): (&Station, Point), (b, w): (&Station, Point)) -> Option<f64> {
    let all = crossings((a, u), (b, w))?;
    Some(all.into_iter().map(|[x, _]| -x).fold(0.0, f64::max))
}

/// The stretches of some runs and what comes next to each.
struct Chains {
    nodes: Vec<Node>,
    /// Those of each part, in order.
    of: Vec<Vec<usize>>,
}

impl Node {
    /// The section at an end and the way out there.
    fn out(&self, end: usize) -> Option<(&Station, Point)> {
        let station = &self.ends.as_ref()?[end];
        Some((station, if end == 0 { -station.along } else { station.along }))
    }
}

impl Chains {
    fn link(&mut self, a: (usize, usize), b: (usize, usize), gap: bool) {
        let out = |(n, end): (usize, usize)| self.nodes[n].out(end);
        let both = out(a).zip(out(b));
        let beyond = both.and_then(|(a, b)| beyond_crossing(a, b));
        let turn = both.map_or(0.0, |((_, u), (_, w))| u.angle_between(-w));
        let link = |(node, end), beyond| Some(Link { node, end, gap, beyond, turn });
        let back = link(a, beyond.map(|[x, y]| [y, x]));
        self.nodes[a.0].links[a.1] = link(b, beyond);
        self.nodes[b.0].links[b.1] = back;
    }

    /// Takes one away, so that what is before and after it meets.
    fn drop(&mut self, n: usize) {
        self.nodes[n].goes = true;
        if let [Some(a), Some(b)] = std::mem::take(&mut self.nodes[n].links) {
            self.link((a.node, a.end), (b.node, b.end), true);
        }
    }

    fn may_go(&self, n: usize) -> bool {
        self.nodes[n].links.iter().all(|l| l.is_some_and(|l| l.node != n))
    }

    /// The share of one that those beside it take.
    fn taken(&self, n: usize) -> f64 {
        let beyond = self.nodes[n].links.iter().flatten().filter_map(|l| l.beyond).map(|b| b[0].max(0.0));
        beyond.sum::<f64>() / self.nodes[n].length.max(f64::MIN_POSITIVE)
    }

    /// Whether an end reaches what it meets beyond what is passed over: what bends evenly from one to the other stands off their
    /// mitre by hardly anything.
    fn reaches(&self, n: usize, link: &Link) -> bool {
        let size = self.nodes[n].size;
        let near = |x: f64| x > -size * FARTHEST && -x * (link.turn * 0.25).tan() < size * SLACK;
        !link.gap || link.beyond.is_some_and(|b| b.into_iter().all(near))
    }

    fn staying(&self) -> impl Iterator<Item = usize> {
        (0..self.nodes.len()).filter(|n| !self.nodes[*n].goes)
    }

    /// The next one that has to go, or the end of one that fails to reach what it meets though nothing can go.
    fn next(&self, parts: &[Part]) -> Result<Option<usize>, usize> {
        if let Some(n) = self.staying().find(|n| self.nodes[*n].ends.is_none()) {
            return if self.may_go(n) { Ok(Some(n)) } else { Err(n) };
        }
        let short = |n: &usize| self.nodes[*n].length <= self.nodes[*n].size;
        let used_up =
            self.staying().filter(|n| self.may_go(*n) && (short(n) || parts[self.nodes[*n].part].whole.is_err()));
        let most = used_up.map(|n| (n, self.taken(n))).max_by(|a, b| a.1.total_cmp(&b.1));
        if let Some((n, _)) = most.filter(|(_, share)| *share >= 1.0) {
            return Ok(Some(n));
        }
        // What has to stay must not be used up.
        let at_gap = |n: &usize| self.nodes[*n].links.iter().flatten().any(|l| l.gap);
        if let Some(n) = self.staying().find(|n| at_gap(n) && self.taken(*n) >= 1.0) {
            return Err(n);
        }
        let apart = |n: &usize| self.nodes[*n].links.iter().flatten().find(|l| !self.reaches(*n, l));
        let Some((n, link)) = self.staying().find_map(|n| Some((n, apart(&n)?))) else { return Ok(None) };
        let sides = [n, link.node].into_iter().filter(|n| short(n) && self.may_go(*n));
        sides.min_by(|a, b| self.nodes[*a].length.total_cmp(&self.nodes[*b].length)).map(Some).ok_or(n)
    }
}

impl Planner<'_> {
    /// The sections along some runs, without what is passed over.
    pub(crate) fn chained(&self, wanted: &[Wanted]) -> Result<Vec<Spine>, EdgeError> {
        let parts = wanted.iter().map(|w| self.part(w)).collect::<Result<Vec<Part>, EdgeError>>()?;
        // A sheet is cut along whole runs.
        if !self.graph.border.is_empty() {
            return parts.into_iter().map(|p| p.whole.map_err(EdgeError::Trouble)).collect();
        }
        let mut chains = self.chains(wanted, &parts);
        let trouble = |n: usize, chains: &Chains| {
            let run = wanted[chains.nodes[n].part].run;
            let at = chains.nodes[n].ends.map_or(Point::ZERO, |[a, _]| a.at);
            let folds = Trouble { run, cause: Cause::Folds, at };
            EdgeError::Trouble(parts[chains.nodes[n].part].whole.as_ref().err().copied().unwrap_or(folds))
        };
        while let Some(n) = chains.next(&parts).map_err(|n| trouble(n, &chains))? {
            self.progress.check()?;
            chains.drop(n);
        }
        // What is left out at an end has to meet something.
        for (part, of) in parts.iter().zip(&chains.of) {
            for (end, n) in [(0, of.first()), (1, of.last())] {
                let open = n.is_some_and(|n| !chains.nodes[*n].goes && chains.nodes[*n].links[end].is_none());
                if part.stretches.missing[end] && open {
                    return Err(trouble(of[0], &chains));
                }
            }
        }
        let mut spines = Vec::with_capacity(parts.len());
        for (n, part) in parts.into_iter().enumerate() {
            spines.extend(self.left_of(&wanted[n], part, &chains.of[n], &chains)?);
        }
        Ok(spines)
    }

    fn part(&self, wanted: &Wanted) -> Result<Part, EdgeError> {
        match self.whole(wanted) {
            Ok(spine) => Ok(Part { whole: Ok(spine), stretches: Stretches::default() }),
            Err(EdgeError::Trouble(trouble)) => {
                let stretches = self.stretches(wanted, self.places(wanted, wanted.size()))?;
                Ok(Part { whole: Err(trouble), stretches })
            }
            Err(e) => Err(e),
        }
    }

    fn chains(&self, wanted: &[Wanted], parts: &[Part]) -> Chains {
        let mut chains = Chains { nodes: vec![], of: vec![vec![]; parts.len()] };
        // Where runs end, by the points of the mesh there.
        let mut at: BTreeMap<u32, Vec<(usize, usize)>> = BTreeMap::new();
        for (part, (w, p)) in wanted.iter().zip(parts).enumerate() {
            let run = &self.graph.runs[w.run as usize];
            let own: Vec<(Option<[Station; 2]>, f64)> = match &p.whole {
                Ok(spine) if run.closed || spine.stations.is_empty() => vec![],
                Ok(spine) => vec![ends_and_length(spine.stations.iter())],
                Err(_) if p.stretches.all.is_empty() => vec![(None, 0.0)],
                Err(_) => p.stretches.all.iter().map(|s| ends_and_length(s.iter().map(|s| &s.1))).collect(),
            };
            let first = chains.nodes.len();
            let (size, links) = (w.size(), [None; 2]);
            chains.nodes.extend(own.into_iter().map(|(ends, length)| Node {
                part,
                ends,
                length,
                size,
                links,
                goes: false,
            }));
            let last = chains.nodes.len();
            chains.of[part] = (first..last).collect();
            for n in first + 1..last {
                chains.link((n - 1, 1), (n, 0), true);
            }
            if run.closed && p.whole.is_err() && last > first {
                chains.link((last - 1, 1), (first, 0), true);
            } else if !run.closed && last > first {
                let [a, b] = self.graph.ends_of(run);
                at.entry(a).or_default().push((first, 0));
                at.entry(b).or_default().push((last - 1, 1));
            }
        }
        let is_round = |n: usize| matches!(wanted[chains.nodes[n].part].at(0.0), Section::Round { .. });
        let convex = |n: usize| self.graph.runs[wanted[chains.nodes[n].part].run as usize].convex;
        let alike = |a: usize, b: usize| is_round(a) == is_round(b) && convex(a) == convex(b);
        let meet: Vec<[(usize, usize); 2]> = at
            .into_values()
            .filter_map(|ends| <[_; 2]>::try_from(ends).ok())
            .filter(|[a, b]| alike(a.0, b.0))
            .collect();
        for [a, b] in meet {
            let missing =
                |(n, end): (usize, usize), chains: &Chains| parts[chains.nodes[n].part].stretches.missing[end];
            let gap = missing(a, &chains) || missing(b, &chains);
            chains.link(a, b, gap);
        }
        chains
    }

    /// What stays of a run; none where it is passed over.
    fn left_of(&self, wanted: &Wanted, part: Part, own: &[usize], chains: &Chains) -> Result<Option<Spine>, EdgeError> {
        let stay: Vec<usize> = own.iter().copied().filter(|n| !chains.nodes[*n].goes).collect();
        let (Some(first), Some(last)) = (stay.first(), stay.last()) else {
            return Ok(part.whole.ok().filter(|_| own.is_empty()));
        };
        let gap = |n: usize, end: usize| {
            let link = chains.nodes[n].links[end].filter(|l| l.gap)?;
            let (station, out) = chains.nodes[link.node].out(link.end)?;
            let here = chains.nodes[n].out(end)?.0.at;
            let taken = link.beyond.map_or(0.0, |b| b[0].max(0.0));
            Some((Bend { here, there: station.at, taken }, Meeting { station: *station, onward: -out }))
        };
        let run = &self.graph.runs[wanted.run as usize];
        let mut spine = match part.whole {
            Ok(spine) => spine,
            Err(trouble) => {
                let of: Vec<&Stretch> =
                    own.iter().zip(&part.stretches.all).filter(|(n, _)| stay.contains(n)).map(|(_, s)| s).collect();
                let spine = self.broken(wanted, &of)?;
                match folded(&spine) {
                    Some(_) => return Err(EdgeError::Trouble(trouble)),
                    None => spine,
                }
            }
        };
        spine.bends =
            stay.iter().flat_map(|n| [0, 1].map(|end| gap(*n, end))).flatten().map(|(bend, _)| bend).collect();
        let whole: f64 = stay.iter().map(|n| chains.nodes[*n].length).sum();
        let taken: f64 = stay.iter().map(|n| chains.taken(*n) * chains.nodes[*n].length).sum();
        spine.taken = (taken / whole.max(f64::MIN_POSITIVE)).min(1.0);
        if !run.closed {
            spine.meets = [(*first, 0), (*last, 1)].map(|(n, end)| gap(n, end).map(|(_, meeting)| meeting));
        }
        Ok(Some(spine))
    }

    /// The sections along the stretches of a run.
    fn broken(&self, wanted: &Wanted, of: &[&Stretch]) -> Result<Spine, EdgeError> {
        let closed = self.graph.runs[wanted.run as usize].closed;
        let (mut places, mut stations, mut breaks) = (vec![], vec![], vec![]);
        let put_down = |place: &_, share: f64| self.put_down_at(place, wanted, share);
        for stretch in of {
            if closed || !places.is_empty() {
                breaks.push(places.len());
            }
            let stretch = self.finer(stretch.to_vec(), self.closely(wanted), &put_down)?;
            places.extend(stretch.iter().map(|s| s.0));
            stations.extend(stretch.iter().map(|s| s.1));
        }
        Ok(Spine { breaks, ..self.spine_of(wanted, places, stations) })
    }
}

fn ends_and_length<'s>(stations: impl Iterator<Item = &'s Station> + Clone) -> (Option<[Station; 2]>, f64) {
    let ends = stations.clone().next().zip(stations.clone().last()).map(|(a, b)| [*a, *b]);
    (ends, stations.clone().zip(stations.skip(1)).map(|(a, b)| a.at.distance(b.at)).sum())
}
