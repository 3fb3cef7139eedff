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
#[derive(Clone, Debug, Default)]
pub struct Progress {
    state: Arc<State>,
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
        self.state.permille.store((fraction.clamp(0.0, 1.0) * 1000.0) as u32, Ordering::Relaxed);
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
