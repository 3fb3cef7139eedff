//! Progress and cancel for work that takes long: one handle that the work asks and tells.

use std::sync::Arc;
use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, AtomicU32, Ordering};

/// The work was stopped because someone asked for it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[error("cancelled")]
pub struct Cancelled;

/// A handle shared by the work (which reports and asks) and the one who waits (who reads and may cancel).
/// Clones share the same state.
#[derive(Clone, Debug)]
pub struct Progress {
    state: Arc<State>,
    /// The stretch of the whole that this handle tells about.
    from: f64,
    to: f64,
}

impl Default for Progress {
    fn default() -> Self {
        Self { state: Arc::default(), from: 0.0, to: 1.0 }
    }
}

#[derive(Debug, Default)]
struct State {
    cancelled: AtomicBool,
    /// Thousandths done, 0 to 1000.
    permille: AtomicU32,
    doing: Mutex<String>,
}

impl Progress {
    /// A handle that nobody watches.
    pub fn unwatched() -> Self {
        Self::default()
    }

    /// A handle for a stage of the work, from one fraction of this one's stretch to another: what it reports as 0 to 1 shows
    /// as that stretch of the whole. Cancelling either cancels both.
    pub fn stage(&self, from: f64, to: f64) -> Self {
        let at = |fraction: f64| self.from + (self.to - self.from) * fraction;
        Self { state: self.state.clone(), from: at(from), to: at(to) }
    }

    /// The `n`th of equal parts of the work, counted from 0.
    pub fn part(&self, n: usize, of: usize) -> Self {
        self.stage(n as f64 / of as f64, (n + 1) as f64 / of as f64)
    }

    /// Asks the work to stop at its next [`Progress::check`].
    pub fn cancel(&self) {
        self.state.cancelled.store(true, Ordering::Relaxed);
    }

    /// Whether the work may go on. Long loops ask at least every 50 ms.
    ///
    /// # Errors
    /// [`Cancelled`] once someone has cancelled.
    pub fn check(&self) -> Result<(), Cancelled> {
        if self.state.cancelled.load(Ordering::Relaxed) { Err(Cancelled) } else { Ok(()) }
    }

    /// Says how far the work is (0 to 1) and what it does now, in plain words; also a [`Progress::check`].
    ///
    /// # Errors
    /// [`Cancelled`] once someone has cancelled.
    pub fn report(&self, fraction: f64, doing: &str) -> Result<(), Cancelled> {
        let whole = self.from + (self.to - self.from) * fraction.clamp(0.0, 1.0);
        self.state.permille.store((whole * 1000.0).round() as u32, Ordering::Relaxed);
        if let Ok(mut now) = self.state.doing.lock()
            && *now != doing
        {
            doing.clone_into(&mut now);
        }
        self.check()
    }

    /// How far the work is (0 to 1) and what it does.
    pub fn read(&self) -> (f64, String) {
        let doing = self.state.doing.lock().map(|d| d.clone()).unwrap_or_default();
        (f64::from(self.state.permille.load(Ordering::Relaxed)) / 1000.0, doing)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_stage_tells_its_stretch_of_the_whole_and_shares_the_cancel() {
        let whole = Progress::default();
        let late = whole.stage(0.5, 1.0).stage(0.5, 1.0);
        late.report(0.2, "writing").unwrap();
        assert_eq!(whole.read(), (0.8, "writing".to_owned()));
        whole.cancel();
        assert_eq!(late.check(), Err(Cancelled));
    }
}
