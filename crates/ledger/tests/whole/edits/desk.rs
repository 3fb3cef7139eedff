//! A job without a database.

use std::collections::BTreeMap;

use nimbet_kernel::{Mesh, Progress};
use nimbet_ledger::*;
use nimbet_trade::examine;
use serde_json::{Value, json};

/// A job without a database.
#[derive(Default)]
pub struct Desk {
    pub history: History,
    pub next: u32,
    pub meshes: BTreeMap<Hash, Mesh>,
    pub results: BTreeMap<Hash, (Hash, StepReport)>,
    pub files: BTreeMap<Hash, Vec<u8>>,
    /// How many steps were worked out.
    pub worked: usize,
}

pub fn action(value: Value) -> Action {
    serde_json::from_value(value).unwrap()
}

impl Desk {
    pub fn with(meshes: &[Mesh]) -> Self {
        let mut desk = Self { next: 1, ..Self::default() };
        desk.keep(&Mesh::default());
        for mesh in meshes {
            let hash = desk.keep(mesh);
            let seen = examine(mesh, &Progress::unwatched()).unwrap();
            let json = json!({ "done": [], "left": [], "largest_move": 0.0, "before": null, "after": seen.figures });
            let what = json!({ "kind": "bring_in", "file": "a.stl", "source": hash });
            desk.history.steps.push(Step {
                number: desk.next,
                part: PartId(desk.next),
                action: action(what),
                mesh: hash,
                report: serde_json::from_value(json).unwrap(),
                state: StepState::Done,
                name: None,
                note: None,
            });
            desk.next += 1;
        }
        desk.history.cursor = desk.history.steps.len();
        desk
    }

    pub fn keep(&mut self, mesh: &Mesh) -> Hash {
        let hash = mesh_hash(mesh).0;
        self.meshes.insert(hash, mesh.clone());
        hash
    }

    pub fn result_of(&mut self, due: &Due) -> Result<(Hash, StepReport), StepError> {
        let key = cache_key(&due.action, &due.inputs).unwrap();
        if let Some(known) = self.results.get(&key) {
            return Ok(known.clone());
        }
        self.worked += 1;
        if let Action::BringIn(what) = &due.action {
            return Ok(self.read(what).1);
        }
        let quiet = Progress::unwatched();
        let meshes: Vec<Mesh> = due.inputs.iter().map(|h| self.meshes[h].clone()).collect();
        let before = examine(&meshes[0], &quiet).unwrap();
        let done = perform(&due.action, &meshes[0], &before, &meshes[1..], &quiet)?;
        for (mesh, _) in &done.more {
            self.keep(mesh);
        }
        let result = (self.keep(&done.mesh), done.report);
        self.results.insert(key, result.clone());
        Ok(result)
    }

    /// Reads a file; gives what the step says of its bodies, and what came of it.
    pub fn read(&mut self, what: &BringIn) -> (Option<Vec<PickedBody>>, (Hash, StepReport)) {
        let (bytes, quiet) = (self.files[&what.source].clone(), Progress::unwatched());
        let length = bytes.len() as u64;
        let read = bring_in(&bytes[..], length, &what.file, &what.into(), &Default::default(), &quiet).unwrap();
        let (picked, parts) = (read.picked(), read.parts.clone());
        let kept = parts.iter().map(|p| (self.keep(&p.mesh), examine(&p.mesh, &quiet).unwrap().figures)).collect();
        (picked, read.report(kept).unwrap())
    }

    /// Brings a file in, as these bodies.
    pub fn brings(&mut self, file: &str, bytes: Vec<u8>, bodies: Value) -> u32 {
        let source = Hash::of(&bytes);
        self.files.insert(source, bytes);
        let what = action(json!({ "kind": "bring_in", "file": file, "source": source, "bodies": bodies }));
        let Action::BringIn(mut what) = what else { panic!("it is none") };
        let (picked, (mesh, mut report)) = self.read(&what);
        what.bodies = picked;
        let number = self.next;
        self.next += 1;
        for made in &mut report.made {
            made.part = Some(PartId(self.next));
            self.next += 1;
        }
        let (part, action, state) = (PartId(number), Action::BringIn(what), StepState::Done);
        self.history.steps.push(Step { number, part, action, mesh, report, state, name: None, note: None });
        self.history.cursor = self.history.steps.len();
        number
    }

    pub fn edit(&mut self, edit: Edit) -> Result<(), EditError> {
        let history = self.history.edited(&edit, self.next)?;
        let next = self.next + edit.adds();
        let mut replay = Replay::new(history, next);
        while let Some(due) = replay.due() {
            let result = self.result_of(&due);
            replay.done(result).unwrap();
        }
        (self.history, self.next) = replay.finish();
        Ok(())
    }

    /// Does a step after the last; gives its number.
    pub fn does(&mut self, part: u32, what: Value) -> u32 {
        let number = self.next;
        let work = NewWork { part: PartId(part), action: action(what) };
        self.edit(Edit::Append { steps: vec![work] }).unwrap();
        number
    }

    pub fn over(&mut self, step: u32, what: Value) {
        self.edit(Edit::Replace { step, action: action(what) }).unwrap();
    }

    pub fn state(&self, step: u32) -> &StepState {
        &self.history.steps.iter().find(|s| s.number == step).unwrap().state
    }

    pub fn volume(&self, part: u32) -> f64 {
        self.history.part(PartId(part)).unwrap().figures.volume.unwrap()
    }
}
