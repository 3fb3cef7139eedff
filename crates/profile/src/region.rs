//! Regions: what the pieces of a network enclose, found from how they meet.

use std::f64::consts::TAU;

use nimbet_kernel::{Cancelled, Progress, UnionFind};

use crate::network::{Network, Piece};
use crate::{Flat, Span};

/// A piece of an outline, and whether it is run backward.
pub type Side = (usize, bool);

/// An area enclosed by pieces, with holes where other lines lie within.
#[derive(Clone, Debug)]
pub struct Region {
    /// Its border, counter-clockwise, then its holes, clockwise.
    pub outlines: Vec<Vec<Side>>,
    /// Its area without the holes, mm².
    pub area: f64,
    /// In how many others it lies: outermost ones in none.
    pub depth: usize,
    /// A place well inside.
    pub inside: Flat,
}

struct Cycle {
    sides: Vec<Side>,
    /// Positive round a region, negative round what stands in one.
    area: f64,
    least: Flat,
    most: Flat,
    /// Which connected lines it is of.
    island: usize,
}

impl Network {
    /// A piece as an outline runs along it.
    pub fn side(&self, (piece, back): Side) -> Span {
        let span = self.pieces[piece].span;
        if back { span.reversed() } else { span }
    }

    /// The regions, the outermost first, then by where they begin among the pieces.
    ///
    /// # Errors
    /// [`Cancelled`].
    pub fn regions(&self, progress: &Progress) -> Result<Vec<Region>, Cancelled> {
        let mut live = self.without_loose();
        let mut cycles = self.cycles(&live);
        // What has the same region on both sides bounds nothing.
        let mut beside = vec![[usize::MAX; 2]; self.pieces.len()];
        for (n, cycle) in cycles.iter().enumerate() {
            for &(piece, back) in cycle {
                beside[piece][usize::from(back)] = n;
            }
        }
        let bridges: Vec<usize> = (0..live.len()).filter(|&p| live[p] && beside[p][0] == beside[p][1]).collect();
        if !bridges.is_empty() {
            bridges.into_iter().for_each(|p| live[p] = false);
            cycles = self.cycles(&live);
        }
        let islands = self.islands(&live);
        let cycles: Vec<Cycle> = cycles.into_iter().map(|sides| self.measured(sides, &islands)).collect();
        self.nested(&cycles, progress)
    }

    /// Which pieces are left when those with a free end are taken away until there are none.
    fn without_loose(&self) -> Vec<bool> {
        let mut live = vec![true; self.pieces.len()];
        let mut degree: Vec<usize> = self.round.iter().map(Vec::len).collect();
        let mut loose: Vec<usize> = (0..degree.len()).filter(|&p| degree[p] == 1).collect();
        while let Some(place) = loose.pop() {
            let Some(&(piece, _)) = self.round[place].iter().find(|(p, _)| live[*p]) else { continue };
            live[piece] = false;
            let Piece { from, to, .. } = self.pieces[piece];
            for place in [from, to] {
                degree[place] -= 1;
                if degree[place] == 1 {
                    loose.push(place);
                }
            }
        }
        live
    }

    /// All ways round with the area to the left.
    fn cycles(&self, live: &[bool]) -> Vec<Vec<Side>> {
        let mut taken = vec![[false; 2]; self.pieces.len()];
        let mut cycles = Vec::new();
        for start in (0..self.pieces.len()).filter(|&p| live[p]).flat_map(|p| [(p, false), (p, true)]) {
            let (mut cycle, mut side) = (Vec::new(), start);
            while !taken[side.0][usize::from(side.1)] {
                taken[side.0][usize::from(side.1)] = true;
                cycle.push(side);
                side = self.next(side, live);
            }
            if !cycle.is_empty() {
                cycles.push(cycle);
            }
        }
        cycles
    }

    /// The piece to go on with, keeping as far left as can be.
    fn next(&self, (piece, back): Side, live: &[bool]) -> Side {
        let place = if back { self.pieces[piece].from } else { self.pieces[piece].to };
        let round = &self.round[place];
        let at = round.iter().position(|e| *e == (piece, !back)).unwrap_or(0);
        let before = (1..=round.len()).map(|k| round[(at + round.len() - k) % round.len()]);
        let (next, ends) = before.into_iter().find(|(p, _)| live[*p]).unwrap_or((piece, !back));
        (next, ends)
    }

    fn islands(&self, live: &[bool]) -> Vec<usize> {
        let mut sets = UnionFind::new(self.places.len());
        for (n, piece) in self.pieces.iter().enumerate() {
            if live[n] {
                sets.union(piece.from as u32, piece.to as u32);
            }
        }
        sets.number_sets().0.into_iter().map(|n| n as usize).collect()
    }

    fn measured(&self, sides: Vec<Side>, islands: &[usize]) -> Cycle {
        let hulls = sides.iter().flat_map(|s| self.side(*s).hull());
        let (least, most) = hulls.fold((Flat::INFINITY, Flat::NEG_INFINITY), |(l, m), p| (l.min(p), m.max(p)));
        let area = self.sweeps(&sides, (least + most) * 0.5);
        let island = islands[self.pieces[sides[0].0].from];
        Cycle { sides, area, least, most, island }
    }

    /// The area of a region without its holes, mm².
    pub fn area(&self, region: &Region) -> f64 {
        region.outlines.iter().map(|outline| self.sweeps(outline, region.inside)).sum()
    }

    /// The area to the left of a closed way round, mm².
    pub fn sweeps(&self, sides: &[Side], about: Flat) -> f64 {
        sides.iter().map(|s| self.side(*s).sweeps(about)).sum()
    }

    fn nested(&self, cycles: &[Cycle], progress: &Progress) -> Result<Vec<Region>, Cancelled> {
        let islands = cycles.iter().map(|c| c.island + 1).max().unwrap_or(0);
        // The region each island stands in: the least one of another island that goes round it.
        let mut within: Vec<Option<usize>> = vec![None; islands];
        let mut holes: Vec<Vec<usize>> = vec![Vec::new(); cycles.len()];
        let all: Vec<(usize, &Cycle)> = cycles.iter().enumerate().collect();
        for (n, hole) in cycles.iter().enumerate().filter(|(_, c)| c.area < 0.0) {
            progress.check()?;
            let place = self.side(hole.sides[0]).from();
            let round = |c: &&(usize, &Cycle)| {
                let c = c.1;
                c.area > 0.0
                    && c.island != hole.island
                    && c.least.cmple(place).all()
                    && place.cmple(c.most).all()
                    && self.winds(&c.sides, place) != 0
            };
            let least = all.iter().filter(round).min_by(|a, b| a.1.area.total_cmp(&b.1.area));
            if let Some(&(outer, _)) = least {
                within[hole.island] = Some(outer);
                holes[outer].push(n);
            }
        }
        let depth = |mut island: usize| {
            let mut depth = 0;
            while let Some(outer) = within[island] {
                (island, depth) = (cycles[outer].island, depth + 1);
            }
            depth
        };
        let mut regions = Vec::new();
        for (n, cycle) in cycles.iter().enumerate().filter(|(_, c)| c.area > 0.0) {
            let outlines: Vec<Vec<Side>> =
                std::iter::once(n).chain(holes[n].iter().copied()).map(|c| cycles[c].sides.clone()).collect();
            let area = cycle.area + holes[n].iter().map(|h| cycles[*h].area).sum::<f64>();
            let inside = self.well_inside(&outlines, cycle.least, cycle.most);
            regions.push(Region { outlines, area, depth: depth(cycle.island), inside });
        }
        regions.sort_by_key(|r| r.depth);
        Ok(regions)
    }

    /// How often a closed way round winds about a place that is not on it.
    pub fn winds(&self, sides: &[Side], place: Flat) -> i32 {
        (sides.iter().map(|s| turn_seen(&self.side(*s), place, 40)).sum::<f64>() / TAU).round() as i32
    }

    /// Whether a place lies in a region.
    pub fn holds(&self, region: &Region, place: Flat) -> bool {
        region.outlines.iter().map(|o| self.winds(o, place)).sum::<i32>() == 1
    }

    /// The points of a closed way round, each with the piece that begins there, so that no chord is farther from its curve than
    /// `chord`, mm.
    pub fn flattened(&self, sides: &[Side], chord: f64) -> Vec<(Flat, usize)> {
        let mut points = Vec::new();
        for &(piece, back) in sides {
            let p = &self.pieces[piece];
            points.push((self.places[if back { p.to } else { p.from }], piece));
            // Both ways along a piece give the same points.
            let mut shares = p.span.shares(chord);
            shares.pop();
            if back {
                shares.reverse();
            }
            points.extend(shares.into_iter().map(|t| (p.span.at(t), piece)));
        }
        points
    }

    /// The middle of the widest stretch inside along one of a few level lines.
    fn well_inside(&self, outlines: &[Vec<Side>], least: Flat, most: Flat) -> Flat {
        const LEVELS: [f64; 7] = [0.5, 0.37, 0.63, 0.21, 0.79, 0.09, 0.91];
        let chord = (most - least).length() * 1e-3;
        let flat: Vec<Vec<Flat>> =
            outlines.iter().map(|o| self.flattened(o, chord).into_iter().map(|p| p.0).collect()).collect();
        let mut best = (0.0, least);
        for level in LEVELS {
            let y = least.y + (most.y - least.y) * level;
            let mut crossed: Vec<f64> = Vec::new();
            for outline in &flat {
                for (k, a) in outline.iter().enumerate() {
                    let b = outline[(k + 1) % outline.len()];
                    if (a.y > y) != (b.y > y) {
                        crossed.push(a.x + (b.x - a.x) * (y - a.y) / (b.y - a.y));
                    }
                }
            }
            crossed.sort_by(f64::total_cmp);
            for pair in crossed.chunks_exact(2) {
                // A level line nearer to the middle is worth a little more: labels stand better there.
                let width = (pair[1] - pair[0]) * (1.0 - (level - 0.5).abs() * 0.5);
                if width > best.0 {
                    best = (width, Flat::new((pair[0] + pair[1]) * 0.5, y));
                }
            }
        }
        best.1
    }
}

/// The angle by which one turns who follows a span with the eyes from a place.
fn turn_seen(span: &Span, place: Flat, depth: usize) -> f64 {
    let [a, apex, b] = span.hull().map(|p| p - place);
    // Seen from outside the triangle that holds it, it turns as its ends do.
    let turns = [a.perp_dot(apex), apex.perp_dot(b), b.perp_dot(a)];
    let within = turns.iter().all(|t| *t >= 0.0) || turns.iter().all(|t| *t <= 0.0);
    if depth > 0 && within && span.sag() > 0.0 {
        return turn_seen(&span.part(0.0, 0.5), place, depth - 1) + turn_seen(&span.part(0.5, 1.0), place, depth - 1);
    }
    a.angle_to(b)
}
