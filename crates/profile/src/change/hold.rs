//! Figures and rules: held, given another value, let go.

use nimbet_kernel::Progress;

use super::{ChangeError, refused};
use crate::catch::line_of;
use crate::drawing::Drawing;
use crate::rules::Hold;
use crate::text::read_rule;
use crate::{DrawingError, NetworkError};

impl Drawing {
    /// With a further figure or rule, its lines moved so that it is kept.
    pub(super) fn held(&self, text: &str, progress: &Progress) -> Result<(Self, String), ChangeError> {
        let rule = read_rule(text).map_err(ChangeError::Refused)?;
        let with = self.with_hold(rule);
        // It has no name anybody knows yet.
        with.check_holds().map_err(|DrawingError { why, .. }| ChangeError::Refused(why))?;
        let own = with.holds.len() - 1;
        let name = with.holds[own].name.clone();
        let settled = with.settled(&|_| false, progress)?;
        let moved = settled.lines != self.lines;
        let done = format!("{name} held{}", if moved { ", lines moved" } else { "" });
        match settled.said_by(own, progress).map_err(NetworkError::from)? {
            None => Ok((settled, done)),
            // Ends that lie together are one place: no rule has to say so.
            Some(by) if by.is_empty() && moved => Ok((settled.let_go(&[name])?, "joined".into())),
            Some(by) if by.is_empty() => refused("that is so by itself: nothing has to hold it"),
            Some(by) => {
                let names: Vec<&str> = by.iter().map(|n| settled.holds[*n].name.as_str()).collect();
                refused(format!("that is so already, by {}", names.join(", ")))
            }
        }
    }

    /// With another value for a figure.
    pub(super) fn with_figure(
        &self,
        hold: &str,
        value: f64,
        progress: &Progress,
    ) -> Result<(Self, String), ChangeError> {
        let at = self.hold_of(hold)?;
        let mut drawing = self.clone();
        let Some(figure) = drawing.holds[at].rule.figure_mut() else {
            return refused(format!("{hold} is a rule without a figure"));
        };
        let was = std::mem::replace(figure, value);
        let unit = drawing.holds[at].rule.unit();
        drawing.check_holds()?;
        Ok((drawing.settled(&|_| false, progress)?, format!("{was} {unit} → {value} {unit}")))
    }

    /// Without some of its holds; the lines stay.
    pub(super) fn let_go(&self, holds: &[String]) -> Result<Self, ChangeError> {
        for name in holds {
            self.hold_of(name)?;
        }
        let mut drawing = self.clone();
        drawing.holds.retain(|h| !holds.contains(&h.name));
        Ok(drawing)
    }

    /// With the figures that speak of one line only as that line is.
    pub(super) fn figures_as_written(mut self, line: &str) -> Self {
        let own = |hold: &Hold| hold.rule.curves().iter().all(|of| line_of(of) == line);
        let figures: Vec<Option<f64>> =
            self.holds.iter().map(|h| own(h).then(|| self.measured(&h.rule)).flatten()).collect();
        for (hold, figure) in self.holds.iter_mut().zip(figures) {
            if let (Some(own), Some(figure)) = (hold.rule.figure_mut(), figure) {
                *own = figure;
            }
        }
        self
    }

    /// Without holds that speak of what is not there.
    pub(super) fn without_lost(mut self) -> Self {
        let lost = self.lost_holds();
        self.holds.retain(|h| !lost.contains(&h.name));
        self
    }
}
