//! `fasten.stud`: a thread by itself, as a part: a stud, or the ring or cap that goes on one.

use nimbet_kernel::surfaces::{DEFAULT_ANGLE, Grouping, group_faces};
use nimbet_kernel::{Mesh, Point, Progress};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use super::bore::default_chord;
use super::cutter::{LEAD_IN, Threaded, Turning, WALL, lathe, placed};
use super::fine;
use super::fittings::lead_in;
use super::marks::ThreadMark;
use super::thread::{Gender, Thread, ThreadForm, rod, segments};
use crate::budget::Extent;
use crate::parameter::{Direction, Length, Position};
use crate::solids::{arranged, whole_body};
use crate::tool::{Entry, Given, Needs, Tool};
use crate::words::{Xyz, millimetres};
use crate::{Made, Outcome, TradeError};

/// Parameters of `fasten.stud`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Stud {
    /// The thread.
    pub thread: Thread,
    /// How long it is, mm.
    #[schemars(with = "Length")]
    pub length: f64,
    /// Where its foot is, mm.
    #[serde(default)]
    #[schemars(with = "Position")]
    pub at: Xyz,
    /// Which way it stands.
    #[serde(default = "upward")]
    #[schemars(title = "Stands", with = "Direction")]
    pub along: Xyz,
    /// The outer diameter of a ring with an internal thread, mm; a stud with an external one when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(title = "Outer diameter", with = "Option<Length>")]
    pub ring: Option<f64>,
    /// How thick a lid closes the ring at its foot, mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Length>")]
    pub lid: Option<f64>,
    /// Whether the thread is only marked, to be cut at release.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    #[schemars(title = "Only marked here; cut at release")]
    pub marked: bool,
    /// The farthest its round walls may be from true, mm.
    #[serde(default = "default_chord")]
    #[schemars(title = "Chord tolerance", with = "Length", extend("folded" = true))]
    pub chord: f64,
}

fn upward() -> Xyz {
    [0.0, 0.0, 1.0]
}

impl Tool for Stud {
    const KIND: &'static str = "fasten.stud";
    const WHAT: &'static str = "A thread by itself, as a part of its own.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "stud",
        name: "Stud, ring or cap",
        hint: "A thread by itself, as a part of its own",
        group: "Threads",
        words: &["bolt", "screw", "nut", "rod", "insert"],
        needs: Needs::Anything,
        mark: "",
        start: |b| {
            let (least, size) = b.bounds();
            let beside = b.seen.map_or([0.0; 3], |_| [(least[0] + size[0] + 20.0).ceil(), 0.0, least[2].floor()]);
            json!({
                "thread": { "size": "", "allowance": { "radial": 0, "axial": 0 } }, "length": 20, "at": beside, "along": [0, 0, 1],
                "marked": true, "chord": fine(b),
            })
        },
    }];

    fn title(&self) -> String {
        format!("{} {}", self.what(), self.thread.name())
    }

    fn makes(&self, parts: &[Extent]) -> f64 {
        parts[0].triangles + self.thread.form().map_or(0.0, |form| form.triangles(self.chord, self.length))
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let refused = |why: &str| Err(TradeError::refused(why, vec![]));
        let form = self.thread.form()?;
        if !(self.length > form.pitch && self.length.is_finite() && self.chord > 0.0) {
            return refused("it must be longer than a pitch");
        }
        let (at, Some(way)) = (Point::from_array(self.at), Point::from_array(self.along).try_normalize()) else {
            return refused("its direction must not be zero");
        };
        let n = segments(form.major * 0.5, self.chord)?;
        let (made, face) = match self.ring {
            None => self.stud(&form, n, progress)?,
            Some(outer) => self.ring(&form, outer, n, progress)?,
        };
        let made = placed(made, at, way, None)?;
        let gender = if self.ring.is_some() { Gender::Internal } else { Gender::External };
        let mut mark = ThreadMark::new(&self.thread, gender, face, [at, way], self.length, !self.marked)?;
        mark.made = true;
        let done = format!(
            "made a {} {} of {}, {} long",
            self.what().to_lowercase(),
            self.thread.name(),
            crate::solids::volume(&made),
            millimetres(self.length)
        );
        Ok(Outcome {
            more: vec![Made::plain(made, format!("{} {}", self.what(), self.thread.name()))],
            threads: vec![mark],
            ..Outcome::of(mesh.clone(), done)
        })
    }

    fn marked(&mut self) -> Option<&mut bool> {
        Some(&mut self.marked)
    }
}

impl Stud {
    fn what(&self) -> &'static str {
        match (self.ring, self.lid) {
            (None, _) => "Stud",
            (Some(_), None) => "Threaded ring",
            (Some(_), Some(_)) => "Cap",
        }
    }

    /// A pin with lead-ins at both ends, and the number of its ridges' face.
    fn stud(&self, form: &ThreadForm, segments: usize, progress: &Progress) -> Result<(Mesh, u32), TradeError> {
        let (l, root) = (self.length, form.root());
        let pin = |crest: f64| {
            let foot = (crest - root).min(l * 0.4);
            let profile: Vec<Turning> = vec![
                (crest - foot, 0.0, LEAD_IN),
                (crest, foot, WALL),
                (crest, l - foot, LEAD_IN),
                (crest - foot, l, LEAD_IN),
            ];
            lathe(&profile, segments)
        };
        if self.marked {
            return Ok((pin(form.crest)?, WALL));
        }
        let screw = form.screw(Gender::External, segments, None);
        let over = form.pitch * 0.5;
        let thread = rod(&screw, -over, l + over)?;
        let outline = pin(form.crest + form.pitch * 0.25)?;
        let all = arranged(&[&thread, &outline], false, &|_| "the stud".into(), &progress.stage(0.0, 0.9))?;
        let made = whole_body(&all, |w| w[0] > 0 && w[1] > 0, &progress.stage(0.9, 1.0))?;
        // The ridge is the stretch of the profile that lies farthest out.
        let top = |n: usize| screw.profile[n].1 + screw.profile[(n + 1) % screw.profile.len()].1;
        let ridge = (0..screw.profile.len()).max_by(|a, b| top(*a).total_cmp(&top(*b))).unwrap_or(0);
        Ok((made.mesh, ridge as u32))
    }

    fn ring(
        &self,
        form: &ThreadForm,
        outer: f64,
        segments: usize,
        progress: &Progress,
    ) -> Result<(Mesh, u32), TradeError> {
        let lid = self.lid.unwrap_or(0.0);
        if !(outer * 0.5 > form.major * 0.5 + form.play() + lead_in(form.major) && lid >= 0.0 && lid.is_finite()) {
            let why = format!("the ring must be wider than {} with its lead-in", form.name);
            return Err(TradeError::refused(why, vec![]));
        }
        let drum = lathe(
            &[(outer * 0.5, -lid, WALL), (outer * 0.5, self.length, WALL)],
            super::thread::segments(outer * 0.5, self.chord)?,
        )?;
        let drum = group_faces(drum, Grouping { angle: DEFAULT_ANGLE, tolerance: 1e-6 }, progress)?;
        let mouth = form.major * 0.5 + form.play() + lead_in(form.major) * 0.5;
        let over = form.pitch * 0.6;
        // From the mouth, which is at the top of the ring, down.
        let (l, open) = (self.length, lid == 0.0);
        let bore = Threaded {
            form,
            top: -over,
            thread: if open { l + over } else { l - form.pitch },
            end: if open { l + over } else { l },
            lead_in: Some(mouth),
            far: open.then_some((l, mouth)),
            segments,
            cut: !self.marked,
        };
        let bore = placed(bore.body()?, Point::Z * l, Point::NEG_Z, None)?;
        let first = drum.next_face().0;
        let all = arranged(&[&drum, &bore], false, &|_| "the ring".into(), &progress.stage(0.0, 0.9))?;
        let made = whole_body(&all, |w| w[0] > 0 && w[1] <= 0, &progress.stage(0.9, 1.0))?;
        Ok((made.mesh, first + WALL))
    }
}
