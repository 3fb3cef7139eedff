//! What a form of bore takes away: its figures, and the body.

use nimbet_kernel::{Mesh, Point};

use super::bore::{Bore, OFF_BOTTOM};
use super::bore_form::{BoreForm, ThreadedBore, Width};
use super::cutter::{HEAD, LEAD_IN, Threaded, Turning, WALL, lathe, prism, slot, teardrop};
use super::fittings::{Fitting, POCKETS, Pocket, fitting, lead_in};
use super::reach::Span;
use super::sizes::size;
use super::thread::{ThreadForm, segments};
use crate::TradeError;
use crate::budget::around;
use crate::words::millimetres;

/// A form with its figures.
pub(super) enum Cut {
    Turned { radius: f64, head: Option<Head> },
    Drawn { outline: Vec<[f64; 2]>, radius: f64, across: Option<Point> },
    Thread { form: Box<ThreadForm>, lead_in: Option<f64> },
}

/// What is wider at the mouth.
#[derive(Clone, Copy)]
pub(super) struct Head {
    pub(super) radius: f64,
    pub(super) depth: f64,
    /// How deep its slope goes beyond that; nought for a shoulder.
    pub(super) slope: f64,
    /// Measured from the deepest point of the mouth.
    from_deepest: bool,
}

impl Cut {
    /// The radius at the mouth.
    pub(super) fn mouth(&self) -> f64 {
        match self {
            Self::Turned { radius, head } => head.map_or(*radius, |h| h.radius),
            Self::Drawn { radius, .. } => *radius,
            Self::Thread { form, lead_in } => lead_in.unwrap_or(form.major * 0.5),
        }
    }

    /// The radius below.
    pub(super) fn radius(&self) -> f64 {
        match self {
            Self::Turned { radius, .. } | Self::Drawn { radius, .. } => *radius,
            Self::Thread { form, .. } => form.major * 0.5 + form.play(),
        }
    }

    /// About how many triangles it adds to a part it goes so deep into.
    pub(super) fn triangles(&self, chord: f64, deep: f64) -> f64 {
        match self {
            Self::Thread { form, .. } => form.triangles(chord, deep),
            Self::Drawn { outline, .. } => 4.0 * outline.len() as f64,
            Self::Turned { .. } => 8.0 * around(self.widest(), chord),
        }
    }

    pub(super) fn widest(&self) -> f64 {
        self.mouth().max(self.radius())
    }
}

impl Bore {
    /// The form with its figures, for a bore of a diameter of its own if it has one.
    pub(super) fn cut(&self, own: Option<f64>) -> Result<Cut, TradeError> {
        let radius = |width: &Width| self.radius(width, own);
        let turned = |radius: f64, head: Option<Head>| Ok(Cut::Turned { radius, head });
        let headed = |radius: f64, head: Head| turned(radius, Some(head));
        match &self.form {
            BoreForm::Plain { width } => turned(radius(width)?, None),
            BoreForm::Countersunk { width, head, angle } => {
                let r = radius(width)?;
                let head = wider(*head, screw_of(width).map(|f| f.countersink), r, "countersink")?;
                let slope = (head - r) / (angle * 0.5).to_radians().tan();
                headed(r, Head { radius: head, depth: 0.0, slope, from_deepest: false })
            }
            BoreForm::Counterbored { width, head, depth } => {
                let (r, row) = (radius(width)?, screw_of(width));
                let head = wider(*head, row.map(|f| f.counterbore), r, "counterbore")?;
                let depth = depth.or(row.map(|f| f.counterbore_depth));
                let depth = depth.ok_or_else(|| refused("say how deep the counterbore is"))?;
                headed(r, Head { radius: head, depth, slope: 0.0, from_deepest: false })
            }
            BoreForm::Spotfaced { width, head, depth } => {
                let r = radius(width)?;
                let head = wider(*head, screw_of(width).map(|f| f.spot_face), r, "spot face")?;
                headed(r, Head { radius: head, depth: *depth, slope: 0.0, from_deepest: true })
            }
            BoreForm::Tapped { size: name } => {
                let s = size(name).ok_or_else(|| refused(format!("there is no thread “{name}” in the tables")))?;
                turned((s.tap_drill + self.allowance) * 0.5, None)
            }
            BoreForm::Insert { screw, diameter, .. } => self.pocket(screw, *diameter),
            BoreForm::Teardrop { width, up } => {
                let r = radius(width)?;
                let outline = teardrop(r, segments(r, self.chord)?);
                // The outline's second direction goes up, so its first to the side.
                Ok(Cut::Drawn { outline, radius: r * 2f64.sqrt(), across: Some(Point::from_array(*up)) })
            }
            BoreForm::Slot { width, length, way } => {
                let r = radius(width)?;
                let outline = slot(r, *length, segments(r, self.chord)?);
                Ok(Cut::Drawn { outline, radius: r + length * 0.5, across: Some(Point::from_array(*way)) })
            }
            BoreForm::Opening { outline } => opening(outline),
            BoreForm::Threaded(_) if own.is_some() => {
                Err(refused("places of threaded bores cannot have diameters of their own"))
            }
            BoreForm::Threaded(t) => threaded(t),
        }
    }

    fn radius(&self, width: &Width, own: Option<f64>) -> Result<f64, TradeError> {
        let diameter = match (own, width) {
            (Some(own), _) => own,
            (None, Width::Diameter(d)) => *d,
            (None, Width::For(f)) => {
                let row = fitting(&f.screw)
                    .ok_or_else(|| refused(format!("there is no clearance bore for “{}” in the table", f.screw)))?;
                row.clearance[f.class as usize]
            }
        };
        self.half(diameter)
    }

    /// Half a diameter, with the allowance.
    fn half(&self, diameter: f64) -> Result<f64, TradeError> {
        let wide = diameter + self.allowance;
        if wide > 0.0 { Ok(wide * 0.5) } else { Err(refused("the allowance leaves nothing of the diameter")) }
    }

    fn pocket(&self, screw: &str, diameter: Option<f64>) -> Result<Cut, TradeError> {
        let row = pocket_for(screw).ok_or_else(|| refused(format!("there is no pocket for “{screw}” in the table")))?;
        let radius = self.half(diameter.unwrap_or(row.diameter))?;
        let mouth = radius * row.mouth / row.diameter;
        // A slope of 30 degrees leads the insert in.
        let slope = (mouth - radius) * 3f64.sqrt();
        Ok(Cut::Turned { radius, head: Some(Head { radius: mouth, depth: 0.0, slope, from_deepest: false }) })
    }

    /// The body that is taken away, and how long its thread is.
    pub(super) fn body(&self, cut: &Cut, span: &Span) -> Result<(Mesh, Option<f64>), TradeError> {
        match (cut, &self.form) {
            (Cut::Turned { radius, head }, _) => Ok((self.turned_body(*radius, head.as_ref(), span)?, None)),
            (Cut::Drawn { outline, .. }, _) => Ok((prism(outline, span.top, span.end)?, None)),
            (Cut::Thread { form, lead_in }, BoreForm::Threaded(t)) => self.threaded_body(t, form, *lead_in, span),
            (Cut::Thread { .. }, _) => Err(refused("no thread")),
        }
    }

    fn turned_body(&self, radius: f64, head: Option<&Head>, span: &Span) -> Result<Mesh, TradeError> {
        let end = match &self.form {
            BoreForm::Insert { depth, screw, .. } => {
                depth.or_else(|| Some(pocket_for(screw)?.depth)).unwrap_or(span.end).min(span.end)
            }
            _ => span.end,
        };
        let mut profile: Vec<Turning> = vec![];
        let mut widest = radius;
        match head {
            Some(h) => {
                let foot = h.depth + if h.from_deepest { span.deepest } else { 0.0 };
                if foot + h.slope >= end {
                    return Err(refused("the head goes deeper than the bore"));
                }
                widest = h.radius;
                profile.extend([(h.radius, span.top, HEAD), (h.radius, foot, LEAD_IN), (radius, foot + h.slope, WALL)]);
            }
            None => profile.push((radius, span.top, WALL)),
        }
        profile.push((radius, end, WALL));
        lathe(&profile, segments(widest, self.chord)?)
    }

    fn threaded_body(
        &self,
        bore: &ThreadedBore,
        form: &ThreadForm,
        lead_in: Option<f64>,
        span: &Span,
    ) -> Result<(Mesh, Option<f64>), TradeError> {
        let full = if span.far.is_some() { span.end } else { span.end - OFF_BOTTOM * form.pitch };
        let thread = match bore.threaded {
            Some(depth) if span.far.is_none_or(|far| depth < far) => depth.min(span.end),
            _ => full,
        };
        if thread <= form.pitch {
            let least = (OFF_BOTTOM + 1.0) * form.pitch;
            return Err(refused(format!("a blind bore for {} must be deeper than {}", form.name, millimetres(least))));
        }
        let far = span.far.filter(|_| thread >= span.end).zip(lead_in);
        let segments = segments(form.major * 0.5, self.chord)?;
        let (top, end, cut) = (span.top, span.end, !bore.marked);
        let body = Threaded { form, top, thread, end, lead_in, far, segments, cut };
        Ok((body.body()?, Some(thread.min(span.far.unwrap_or(thread)))))
    }
}

fn screw_of(width: &Width) -> Option<&'static Fitting> {
    match width {
        Width::For(f) => fitting(&f.screw),
        Width::Diameter(_) => None,
    }
}

fn pocket_for(screw: &str) -> Option<&'static Pocket> {
    let screw = fitting(screw)?.screw;
    POCKETS.iter().find(|p| p.screw == screw)
}

/// The radius of what is wider than the bore: as given, or by the screw.
fn wider(given: Option<f64>, by_screw: Option<f64>, bore: f64, what: &str) -> Result<f64, TradeError> {
    let d = given.or(by_screw).ok_or_else(|| refused(format!("say how wide the {what} is")))?;
    if d * 0.5 > bore { Ok(d * 0.5) } else { Err(refused(format!("the {what} must be wider than the bore"))) }
}

fn opening(outline: &[[f64; 2]]) -> Result<Cut, TradeError> {
    let mut outline = outline.to_vec();
    if outline.len() < 3 {
        return Err(refused("an outline needs three corners or more"));
    }
    let area = nimbet_kernel::outline::signed_area(&outline);
    if area == 0.0 {
        return Err(refused("the outline has no area"));
    }
    if area < 0.0 {
        outline.reverse();
    }
    let radius = outline.iter().map(|p| p[0].hypot(p[1])).fold(0.0, f64::max);
    Ok(Cut::Drawn { outline, radius, across: None })
}

fn threaded(bore: &ThreadedBore) -> Result<Cut, TradeError> {
    let form = bore.thread.form()?;
    let outer = form.major * 0.5 + bore.thread.allowance.radial;
    let lead_in = match bore.lead_in {
        Some(0.0) => None,
        Some(d) if d * 0.5 > outer => Some(d * 0.5),
        Some(_) => {
            return Err(refused(format!("the lead-in must be wider than the thread, {}", millimetres(outer * 2.0))));
        }
        None => Some(outer + lead_in(form.major) * 0.5),
    };
    Ok(Cut::Thread { form: Box::new(form), lead_in })
}

fn refused(why: impl Into<String>) -> TradeError {
    TradeError::refused(why, vec![])
}
