//! What operators count, told at `/metrics`.

use std::time::Duration;

use prometheus::{
    Encoder, Histogram, HistogramOpts, IntCounterVec, IntGauge, IntGaugeVec, Opts, Registry, TextEncoder,
};

/// The counters of this process.
pub(crate) struct Counts {
    registry: Registry,
    requests: IntCounterVec,
    seconds: Histogram,
    workers: IntGauge,
    workers_ended: IntCounterVec,
    tasks: IntGaugeVec,
    database: IntGauge,
    waiting: IntGaugeVec,
}

impl Default for Counts {
    #[expect(clippy::expect_used, reason = "names and labels are constants; a test makes them")]
    fn default() -> Self {
        let requests = Opts::new("nimbet_requests_total", "Requests answered, by class of status.");
        let seconds = HistogramOpts::new("nimbet_request_seconds", "Time until an answer began.")
            .buckets(vec![0.005, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 5.0, 20.0]);
        let ended = Opts::new("nimbet_workers_ended_total", "Worker processes that ended, by why.");
        let tasks = Opts::new("nimbet_tasks", "Tasks in the database, by state.");
        let waiting = Opts::new(
            "nimbet_waiting",
            "Requests that wait for an answer of the desk, and for room for a file, by what for.",
        );
        let made = || -> prometheus::Result<Self> {
            let counts = Self {
                registry: Registry::new(),
                requests: IntCounterVec::new(requests, &["status"])?,
                seconds: Histogram::with_opts(seconds)?,
                workers: IntGauge::new("nimbet_workers", "Worker processes that run.")?,
                workers_ended: IntCounterVec::new(ended, &["why"])?,
                tasks: IntGaugeVec::new(tasks, &["state"])?,
                database: IntGauge::new("nimbet_database_answers", "Whether the database answers.")?,
                waiting: IntGaugeVec::new(waiting, &["what"])?,
            };
            let registry = &counts.registry;
            registry.register(Box::new(counts.requests.clone()))?;
            registry.register(Box::new(counts.seconds.clone()))?;
            registry.register(Box::new(counts.workers.clone()))?;
            registry.register(Box::new(counts.workers_ended.clone()))?;
            registry.register(Box::new(counts.tasks.clone()))?;
            registry.register(Box::new(counts.database.clone()))?;
            registry.register(Box::new(counts.waiting.clone()))?;
            Ok(counts)
        };
        made().expect("the names of counters are sound")
    }
}

impl Counts {
    pub fn answered(&self, status: u16, after: Duration) {
        self.requests.with_label_values(&[&format!("{}xx", status / 100)]).inc();
        self.seconds.observe(after.as_secs_f64());
    }

    pub fn worker_began(&self) {
        self.workers.inc();
    }

    pub fn worker_ended(&self, why: &str) {
        self.workers.dec();
        self.workers_ended.with_label_values(&[why]).inc();
    }

    /// How many worker processes run.
    pub fn workers(&self) -> i64 {
        self.workers.get()
    }

    /// All counters as Prometheus' text format 0.0.4, with what is asked for now.
    pub fn told(&self, database: bool, tasks: &[(String, i64)], waiting: &[(&str, usize)]) -> String {
        self.database.set(database.into());
        self.tasks.reset();
        for (state, count) in tasks {
            self.tasks.with_label_values(&[state]).set(*count);
        }
        for (what, count) in waiting {
            self.waiting.with_label_values(&[what]).set(*count as i64);
        }
        let mut text = Vec::new();
        // Writing to memory does not fail.
        let _ = TextEncoder::new().encode(&self.registry.gather(), &mut text);
        String::from_utf8(text).unwrap_or_default()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_counted_is_told() {
        let counts = Counts::default();
        counts.answered(204, Duration::from_millis(3));
        counts.worker_began();
        counts.worker_ended("memory");
        let told = counts.told(true, &[("queued".into(), 4)], &[("files", 2)]);
        for line in [
            "nimbet_requests_total{status=\"2xx\"} 1",
            "nimbet_request_seconds_bucket{le=\"0.005\"} 1",
            "nimbet_workers 0",
            "nimbet_workers_ended_total{why=\"memory\"} 1",
            "nimbet_tasks{state=\"queued\"} 4",
            "nimbet_database_answers 1",
            "nimbet_waiting{what=\"files\"} 2",
        ] {
            assert!(told.lines().any(|l| l == line), "{line} in {told}");
        }
    }
}
