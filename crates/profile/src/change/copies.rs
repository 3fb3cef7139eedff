//! Lines and the copies that follow them: taken away together, renamed together, set free.

use rustc_hash::{FxHashMap, FxHashSet};

use super::pieces::shapes_of;
use super::{ChangeError, refused};
use crate::catch::line_of;
use crate::drawing::{Drawing, Line, Shape};

/// The lines a copy is of.
fn of(draw: &mut Shape) -> Option<&mut Vec<String>> {
    match draw {
        Shape::Row { of, .. } | Shape::Ring { of, .. } | Shape::Mirrored { of, .. } => Some(of),
        _ => None,
    }
}

impl Shape {
    /// The lines it is a copy of.
    pub(crate) fn copied(&self) -> &[String] {
        match self {
            Self::Row { of, .. } | Self::Ring { of, .. } | Self::Mirrored { of, .. } => of,
            _ => &[],
        }
    }
}

pub(super) fn rename(draw: &mut Shape, from: &str, to: &str) {
    for name in of(draw).into_iter().flatten() {
        if name == from {
            to.clone_into(name);
        }
    }
}

impl Drawing {
    /// Without some lines. Copies of other lines beside go on without them; copies of nothing go, too.
    pub(super) fn without(&self, lines: &[String]) -> Self {
        let mut gone: FxHashSet<String> = lines.iter().cloned().collect();
        let mut kept = Vec::new();
        for line in self.lines.iter().filter(|l| !lines.contains(&l.name)) {
            let mut line = line.clone();
            if let Some(of) = of(&mut line.draw) {
                of.retain(|name| !gone.contains(name));
                if of.is_empty() {
                    gone.insert(line.name);
                    continue;
                }
            }
            kept.push(line);
        }
        Self { lines: kept, holds: vec![] }
    }

    /// With lines replaced by what is drawn instead; the first takes over the name, and copies of a line become copies of all of it.
    /// `instead` says nothing for a line that stays.
    pub(super) fn replaced(&self, mut instead: impl FnMut(&Line) -> Option<Vec<Shape>>) -> Self {
        let mut names = self.free_names();
        let mut lines: Vec<Line> = Vec::new();
        let mut parts: FxHashMap<&str, Vec<String>> = FxHashMap::default();
        for line in &self.lines {
            let mut made = match instead(line).filter(|_| !line.still) {
                None => vec![line.clone()],
                Some(shapes) => {
                    let name = |n: usize, names: &mut dyn Iterator<Item = String>| match n {
                        0 => line.name.clone(),
                        _ => names.next().unwrap_or_default(),
                    };
                    let named = |(n, draw)| Line::new(name(n, &mut names), draw);
                    shapes.into_iter().enumerate().map(named).collect()
                }
            };
            for line in &mut made {
                if let Some(of) = of(&mut line.draw) {
                    *of = of.iter().flat_map(|name| parts.get(name.as_str()).cloned().unwrap_or_default()).collect();
                }
            }
            made.retain_mut(|line| of(&mut line.draw).is_none_or(|of| !of.is_empty()));
            parts.insert(&line.name, made.iter().map(|l| l.name.clone()).collect());
            lines.extend(made);
        }
        Self { lines, holds: vec![] }
    }

    /// Copies made lines of their own.
    pub(super) fn freed(&self, lines: &[String]) -> Result<Self, ChangeError> {
        let curves = self.curves()?;
        let chosen: Vec<&Line> = self.lines.iter().filter(|l| lines.contains(&l.name)).collect();
        // What a part has carried down is a line of its own from now on.
        if !chosen.is_empty() && chosen.iter().all(|l| l.still) {
            let mut free = Self { holds: vec![], ..self.clone() };
            free.lines.iter_mut().filter(|l| lines.contains(&l.name)).for_each(|l| l.still = false);
            return Ok(free);
        }
        if let Some(line) = chosen.iter().find(|l| l.draw.copied().is_empty()) {
            return refused(format!("line {} is no copy", line.name));
        }
        let own = |line: &Line| {
            let own = curves.iter().filter(|c| line_of(&c.name) == line.name);
            shapes_of(&own.map(|c| c.spans.clone()).collect::<Vec<_>>())
        };
        Ok(self.replaced(|line| lines.contains(&line.name).then(|| own(line))))
    }
}
