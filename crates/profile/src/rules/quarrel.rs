//! Which holds quarrel: a set that cannot be kept, but could without any one of them.

use nimbet_kernel::{Cancelled, Progress};

use super::settle::{Ease, Quarrel, Set};
use super::system::System;

impl System<'_> {
    /// A smallest set of those that cannot be kept together: no one can be left out.
    pub fn quarrel(&self, set: &Set, ease: &Ease, progress: &Progress) -> Result<Quarrel, Cancelled> {
        let all: Vec<usize> = (0..set.holds.len()).collect();
        let mut left = self.suspects(set, ease, progress)?;
        if self.can(set, &left, ease, progress)? {
            left = all;
        }
        // Each is left out for good if the others quarrel without it; older ones stay as long as they can. Once more while some
        // are: what seemed needed beside others may be idle beside fewer.
        let mut before = usize::MAX;
        while left.len() < before {
            before = left.len();
            for n in (0..before).rev() {
                let without: Vec<usize> = left.iter().copied().filter(|h| *h != left[n]).collect();
                if !without.is_empty() && !self.can(set, &without, ease, progress)? {
                    left = without;
                }
            }
        }
        let name = |k: &usize| self.drawing.holds[set.holds[*k]].name.clone();
        Ok(Quarrel { holds: left.iter().map(name).collect() })
    }

    fn part(set: &Set, only: &[usize]) -> Set {
        Set {
            holds: only.iter().map(|k| set.holds[*k]).collect(),
            branches: only.iter().map(|k| set.branches[*k]).collect(),
        }
    }

    fn can(&self, set: &Set, only: &[usize], ease: &Ease, progress: &Progress) -> Result<bool, Cancelled> {
        let mut x = self.x.clone();
        Ok(self.walk(&Self::part(set, only), &mut x, ease, progress)?.is_ok())
    }

    /// Where the rules are kept as well as they can be, those that are still off pull against each other.
    fn suspects(&self, set: &Set, ease: &Ease, progress: &Progress) -> Result<Vec<usize>, Cancelled> {
        /// Of the one that is off most; less is what was not yet settled.
        const SHARE: f64 = 1e-3;
        let mut x = self.x.clone();
        let aim = vec![0.0; self.off(set, &x).len()];
        self.step_to(set, &mut x, &aim, ease, progress)?;
        let off: Vec<f64> =
            self.equations(set, &x).iter().map(|r| r.off.iter().fold(0.0_f64, |a, j| a.max(j.v.abs()))).collect();
        let most = off.iter().copied().fold(0.0, f64::max);
        Ok((0..off.len()).filter(|k| off[*k] > most * SHARE).collect())
    }
}
