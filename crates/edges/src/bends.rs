//! The stretches of a run along which sections go on in each other: all but bends tighter than these, on their hollow side.
//!
//! What is put down between two places next to each other is tried by itself, with the directions and faces it has there. Where
//! two of those go on in each other they are one stretch.

use nimbet_kernel::Point;

use crate::carve::EdgeError;
use crate::plan::{LEAST_STEP, Planner, PutDown, Wanted, with_sections};
use crate::station::{Place, Section, Station};

/// A run is looked at in no more places than this.
const MOST: usize = 1 << 14;

/// A section that leans more along the edge finds hold somewhere else.
const MOST_SLANT: f64 = 0.35;

/// Whether sections run into each other between two.
pub(crate) fn folds(a: &Station, b: &Station) -> bool {
    let way = (b.at - a.at).normalize_or_zero();
    let whole = (b.at - a.at).length();
    let goes_on = |p: Point, q: Point, least: f64| (q - p).dot(way) > whole * least;
    let centres = a.centre.zip(b.centre).is_none_or(|(p, q)| goes_on(p, q, 1e-6));
    !(centres && (0..2).all(|k| goes_on(a.feet[k], b.feet[k], LEAST_STEP)))
}

/// Sections that go on in each other.
pub(crate) type Stretch = Vec<PutDown>;

/// What of a run can have sections.
#[derive(Debug, Default)]
pub(crate) struct Stretches {
    /// In order along the run.
    pub all: Vec<Stretch>,
    /// Whether they leave out its beginning, and its end.
    pub missing: [bool; 2],
}

impl Planner<'_> {
    /// The stretches of a run; none where nothing can be told of it.
    pub(crate) fn stretches(&self, wanted: &Wanted, places: Vec<Place>) -> Result<Stretches, EdgeError> {
        let closed = self.graph.runs[wanted.run as usize].closed;
        if matches!(wanted.at(0.0), Section::Over) || places.len() > MOST {
            return Ok(Stretches::default());
        }
        let (places, along) = with_sections(places, wanted);
        let n = places.len();
        let last = places[n - 1].at;
        let whole = along[n - 1] + if closed { last.distance(places[0].at) } else { 0.0 };
        let share = |k: usize| if k < n { along[k] / whole } else { 1.0 };
        let pairs = if closed { n } else { n - 1 };
        let put_down = |place: &Place, share: f64| {
            self.put_down_at(place, wanted, share).ok().filter(|(_, station, _)| station.slant() <= MOST_SLANT)
        };
        // At each place, and from each to the next by themselves.
        let mut own = Vec::with_capacity(n);
        let mut both = Vec::with_capacity(pairs);
        for k in 0..n {
            if k % 64 == 0 {
                self.progress.check()?;
            }
            own.push(put_down(&places[k], share(k)));
            if k < pairs {
                let (a, b) = (&places[k], &places[(k + 1) % n]);
                let ends = [(a.at, share(k)), (b.at, share(k + 1))];
                let ends = ends.map(|(at, share)| put_down(&self.place_at(at, b.at - a.at, a.faces), share));
                both.push(match ends {
                    [Some(a), Some(b)] if !folds(&a.1, &b.1) => Some([a, b]),
                    _ => None,
                });
            }
        }
        // Whether what comes before and after a place goes on in each other.
        let joined = |k: usize| {
            let before = (k + pairs - 1) % pairs;
            let (Some(here), Some([from, _]), Some([_, to])) = (own[k], both[before], both[k]) else { return false };
            let (from, to) = (own[before].unwrap_or(from), own[(k + 1) % n].unwrap_or(to));
            !folds(&from.1, &here.1) && !folds(&here.1, &to.1)
        };
        let Some(begin) = (if closed { (0..n).find(|k| !joined(*k)) } else { Some(0) }) else {
            return Ok(Stretches::default());
        };
        let mut all: Vec<Stretch> = Vec::new();
        for k in (begin..begin + pairs).map(|k| k % n) {
            let Some([from, to]) = both[k] else { continue };
            let goes_on = k != begin && joined(k);
            match (all.last_mut(), own[k]) {
                (Some(stretch), Some(own)) if goes_on => {
                    stretch.pop();
                    stretch.extend([own, to]);
                }
                _ => all.push(vec![from, to]),
            }
        }
        let missing = if closed { [false; 2] } else { [both[0].is_none(), both[pairs - 1].is_none()] };
        Ok(Stretches { all, missing })
    }
}
