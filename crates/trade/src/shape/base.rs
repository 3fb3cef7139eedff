//! `shape.base`: a sheet that is meant to be one, such as a terrain or a relief, gets a skirt down to a floor.

use nimbet_kernel::rims::{Rim, rims};
use nimbet_kernel::triangulate::{FlatError, PlaneFrame, triangulate_flat};
use nimbet_kernel::{Aabb, FaceId, Mesh, Point, Topology};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use serde_json::json;

use crate::examine::{About, one_digit};
use crate::parameter::{Direction, Length, Position};
use crate::seal::refuse_clash;
use crate::solids::volume;
use crate::tool::{Cure, Entry, Given, Needs, Tool};
use crate::words::{Xyz, millimetres};
use crate::{Outcome, TradeError};

/// Parameters of `shape.base`.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Base {
    /// Where the floor is.
    pub floor: Floor,
    /// The way that is up; square to the sheet on average when absent.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schemars(with = "Option<Direction>", extend("empty" = "square to it"))]
    pub up: Option<Xyz>,
}

/// Where a floor is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Floor {
    /// So far below the lowest point of the sheet, mm.
    Below(#[schemars(title = "Floor below the lowest point", with = "Length")] f64),
    /// Through a point.
    At(#[schemars(with = "Position")] Xyz),
}

impl Base {
    /// That of a sheet so far across, mm.
    pub(crate) fn below(across: f64) -> Self {
        const SHARE: f64 = 0.02;
        Self { floor: Floor::Below(one_digit(across * SHARE)), up: None }
    }
}

impl Tool for Base {
    const KIND: &'static str = "shape.base";
    const WHAT: &'static str = "Stand a sheet on a floor.";
    const ENTRIES: &'static [Entry] = &[Entry {
        key: "base",
        name: "Base",
        hint: "Stands a terrain or relief on a floor, with a skirt from its border",
        group: "Sheets",
        words: &["terrain", "relief", "skirt", "extrude border", "plinth"],
        needs: Needs::Border,
        mark: "",
        start: |b| json!({ "floor": { "below": b.share(0.02) } }),
    }];

    fn title(&self) -> String {
        match self.floor {
            Floor::Below(below) => format!("Base, {} below", millimetres(below)),
            Floor::At(_) => "Base".into(),
        }
    }

    fn remedies(about: &About) -> Vec<Cure> {
        match about {
            About::Sheet { across, .. } => vec![Cure::new(0, "Stand it on a floor", Self::below(*across))],
            _ => vec![],
        }
    }

    fn apply(&self, given: &Given<'_>) -> Result<Outcome, TradeError> {
        let Given { mesh, progress, .. } = *given;
        let topology = Topology::new(mesh.triangles(), mesh.points().len());
        let rims = rims(&topology);
        if rims.is_empty() {
            return Err(TradeError::nothing("there is no border a skirt could come down from: nothing is open"));
        }
        if let Some(rim) = rims.iter().find(|r| !r.closed || r.points.len() < 3) {
            let at = mesh.points()[rim.points[0] as usize];
            let why = "the border breaks off here; mend the edges of three triangles first";
            return Err(TradeError::refused(why, vec![at]));
        }
        let whole: Point = (0..mesh.triangles().len()).map(|t| mesh.area_vector(t)).sum();
        let up = self.up.map_or(whole, Point::from_array).try_normalize();
        let Some(frame) = up.and_then(|up| PlaneFrame::new(up * self.level(mesh, up).unwrap_or(0.0), up)) else {
            return Err(TradeError::refused("the sheet faces no way on the whole; say which way is up", vec![]));
        };
        self.level(mesh, frame.normal)?;
        let mut sheet = mesh.clone();
        // The sheet is the upper side.
        if whole.dot(frame.normal) < 0.0 {
            sheet.reverse_triangles(|_| true);
        }
        progress.report(0.3, "coming down to the floor")?;
        let made = stood(sheet, &rims, &frame)?;
        refuse_clash(&made, mesh.triangles().len(), "the base", &progress.stage(0.5, 1.0))?;
        let done = format!("stood the sheet on a floor: {}", volume(&made));
        Ok(Outcome::of(made, done))
    }
}

impl Base {
    /// The height of the floor.
    fn level(&self, mesh: &Mesh, up: Point) -> Result<f64, TradeError> {
        let height = |p: &&Point| p.dot(up);
        let Some(lowest) = mesh.points().iter().min_by(|a, b| height(a).total_cmp(&height(b))) else {
            return Err(TradeError::nothing("the part has no triangles"));
        };
        let level = match self.floor {
            Floor::Below(below) => height(&lowest) - below,
            Floor::At(at) => Point::from_array(at).dot(up),
        };
        /// The floor lies at least and at most such a share of the sheet's diagonal below it: less leaves walls without area, more
        /// leaves the sheet no digits.
        const DEPTHS: std::ops::RangeInclusive<f64> = 1e-5..=1e3;
        let diagonal = Aabb::of(mesh.points().iter().copied()).diagonal();
        let depth = height(&lowest) - level;
        if depth > 0.0 && !DEPTHS.contains(&(depth / diagonal)) {
            let (least, most) = (millimetres(diagonal * DEPTHS.start()), millimetres(diagonal * DEPTHS.end()));
            let why = format!("the floor of this sheet must lie {least} to {most} below it");
            return Err(TradeError::refused(why, vec![*lowest]));
        }
        let good = level.is_finite() && depth > 0.0;
        if good {
            Ok(level)
        } else {
            Err(TradeError::refused("the floor must lie below all of the sheet", vec![*lowest]))
        }
    }
}

/// A sheet with a skirt from each rim, a face of its own, and the floor between them.
fn stood(sheet: Mesh, rims: &[Rim], frame: &PlaneFrame) -> Result<Mesh, TradeError> {
    let mut face = sheet.next_face().0;
    let (mut points, mut triangles, mut faces) = sheet.into_parts();
    let first = points.len() as u32;
    let ids: Vec<u32> = rims.iter().flat_map(|r| r.points.iter().copied()).collect();
    let flat: Vec<[f64; 2]> = ids.iter().map(|p| frame.flatten(points[*p as usize])).collect();
    let mut outlines: Vec<Vec<usize>> = Vec::with_capacity(rims.len());
    let mut at = 0;
    for rim in rims {
        let n = rim.points.len();
        for k in 0..n {
            let (i, j) = (at + k, at + (k + 1) % n);
            // Against the triangle of the sheet that ends here.
            let t = triangles[rim.halves[k] as usize / 3];
            let forward = (0..3).any(|c| t[c] == ids[i] && t[(c + 1) % 3] == ids[j]);
            let (i, j) = if forward { (i, j) } else { (j, i) };
            let (a, b, c, d) = (ids[i], ids[j], first + i as u32, first + j as u32);
            triangles.extend([[b, a, c], [b, c, d]]);
            faces.extend([FaceId(face); 2]);
        }
        outlines.push((at..at + n).collect());
        at += n;
        face += 1;
    }
    let place = |i: usize| points[ids[i] as usize];
    let floor = triangulate_flat(&flat, &outlines).map_err(|e| match e {
        FlatError::Crosses { first, second, .. } => TradeError::refused(
            "seen from above the border crosses itself, so a skirt would too; choose another way up",
            vec![place(first), place(second)],
        ),
        FlatError::Coincides { point } => {
            TradeError::refused("seen from above the border passes the same place twice", vec![place(point)])
        }
    })?;
    points.extend(flat.iter().map(|p| frame.lift(*p)));
    for [a, b, c] in floor {
        let ([p, q], [r, s], [t, u]) = (flat[a], flat[b], flat[c]);
        // Facing down.
        let up = (r - p) * (u - q) - (s - q) * (t - p) > 0.0;
        triangles.push((if up { [a, c, b] } else { [a, b, c] }).map(|i| first + i as u32));
        faces.push(FaceId(face));
    }
    Ok(Mesh::new(points, triangles, faces)?)
}
