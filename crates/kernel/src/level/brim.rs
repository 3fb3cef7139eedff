//! Where a vessel runs over, and its bottom.

use super::*;

impl Vessel<'_> {
    pub(super) fn find_brim(&mut self, progress: &Progress) -> Result<(), LevelFault> {
        let corners = self.mesh.triangles()[self.seed.triangle as usize];
        let lowest = corners.iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min);
        // Just above each height; above the last everything is under the level.
        let just_above = |n: usize| match self.steps.get(n + 1) {
            Some(next) => self.steps[n].midpoint(*next),
            None => self.steps[n] + 1.0,
        };
        let (mut holds_at, mut runs_at) = (self.steps.partition_point(|h| *h < lowest), self.steps.len());
        if self.wet(just_above(holds_at)).runs_off {
            return Err(LevelFault::NoVessel);
        }
        while runs_at - holds_at > 1 {
            progress.report(0.5, "looking for the brim")?;
            let middle = holds_at.midpoint(runs_at);
            if self.wet(just_above(middle)).runs_off { runs_at = middle } else { holds_at = middle }
        }
        let last = self.steps.len() - 1;
        self.brim = if runs_at > last {
            // A void: full at its top.
            let wet = self.wet(self.steps[last] + 1.0);
            let own = (0..self.mesh.triangles().len()).filter(|t| wet.pool_of[t * self.sides] == wet.pool);
            let top =
                own.flat_map(|t| self.mesh.triangles()[t]).map(|p| self.heights[p as usize]).fold(lowest, f64::max);
            Brim { level: top, at: None, at_rim: false }
        } else {
            let level = self.steps[runs_at];
            let under = self.wet(just_above(runs_at - 1));
            let over = self.wet(just_above(runs_at));
            self.spill(level, &under, &over)
        };
        Ok(())
    }

    /// The point at a height at which what was a pool below it becomes one with the outside.
    fn spill(&self, level: f64, under: &Wet, over: &Wet) -> Brim {
        let mut on_rim = vec![false; self.mesh.points().len()];
        for half in self.topology.naked_halves() {
            let (p, q) = self.topology.ends(half);
            on_rim[p as usize] = true;
            on_rim[q as usize] = true;
        }
        let mut best: Option<(u8, u32)> = None;
        for (t, corners) in self.mesh.triangles().iter().enumerate() {
            let sides = t * self.sides..(t + 1) * self.sides;
            let was = sides.clone().any(|s| under.pool_of[s] == under.pool);
            let is = sides.clone().any(|s| over.pool_of[s] == over.pool);
            for p in corners.iter().filter(|p| self.heights[**p as usize] == level) {
                // A point of a rim of the pool, of the pool, or of what it runs into.
                let rank = if on_rim[*p as usize] && is {
                    3
                } else if was {
                    2
                } else {
                    u8::from(is)
                };
                if best.is_none_or(|b| rank > b.0) {
                    best = Some((rank, *p));
                }
            }
        }
        let at = best.map(|b| self.mesh.points()[b.1 as usize]);
        Brim { level, at, at_rim: best.is_some_and(|b| b.0 == 3) }
    }

    /// The deepest place of the pool that is full to the brim, or to just above the seed.
    pub(super) fn find_bottom(&mut self) -> Result<(), LevelFault> {
        let corners = self.mesh.triangles()[self.seed.triangle as usize];
        let lowest = corners.iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min);
        let next = self.steps.partition_point(|h| *h <= lowest);
        let just_above = self.steps.get(next).map_or(self.brim.level, |n| lowest.midpoint(*n)).min(self.brim.level);
        let wet = self.wet(just_above);
        let mut deepest = (f64::INFINITY, self.seed);
        for t in 0..self.mesh.triangles().len() {
            for side in (0..self.sides).filter(|s| wet.pool_of[t * self.sides + s] == wet.pool) {
                let low =
                    self.mesh.triangles()[t].iter().map(|p| self.heights[*p as usize]).fold(f64::INFINITY, f64::min);
                if low < deepest.0 {
                    deepest = (low, Seed { triangle: t as u32, back: side == 1 });
                }
            }
        }
        self.seed = deepest.1;
        if deepest.0 < self.brim.level { Ok(()) } else { Err(LevelFault::NoVessel) }
    }
}
