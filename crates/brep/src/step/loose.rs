//! What a file holds without exact surfaces: curves, and triangles.

use nimbet_kernel::{Point, Progress};
use rustc_hash::{FxHashMap, FxHashSet};
use step_io::StepModel;
use step_io::model::{self as m, EntityKey};
use step_io::scene::{GeometricSet, Mesh, MeshGroup, NurbsCurve, Rgb, Scene, SetElement};

use super::geometry::point;
use super::{Held, StepError};
use crate::spline::SplineCurve;

/// The most curves without a surface a file may hold.
pub const MOST_CURVES: usize = 50_000;
/// The most control points they may have in all, and the most points triangles may be made of: what is written once may be used
/// by many, so that the size of a file bounds neither.
const MOST_CONTROLS: usize = 2_000_000;
const MOST_POINTS: usize = 40_000_000;

/// Triangles, in faces.
#[derive(Clone, Debug, Default)]
pub struct Triangles {
    /// The points.
    pub points: Vec<Point>,
    /// Three points each.
    pub triangles: Vec<[u32; 3]>,
    /// The face of each.
    pub face_of: Vec<u32>,
}

/// The sets of triangles that belong to one product, or to none.
pub(super) struct Pieces<'m> {
    pub key: EntityKey,
    pub name: &'m str,
    pub colour: Option<Rgb>,
    meshes: Vec<Mesh<'m>>,
    /// Whether it shows a body that is there with its exact surfaces.
    pub is_shown: bool,
}

/// The different sets of curves and of triangles, as they are met.
#[derive(Default)]
pub(super) struct Loose {
    wires: Vec<Vec<SplineCurve>>,
    meshes: Vec<Triangles>,
    of_key: FxHashMap<EntityKey, Option<Held>>,
    curves: usize,
    controls: usize,
    points: usize,
    unread: usize,
    /// Sets of curves or points that belong to no product.
    pub aside: usize,
    /// Sets of triangles that show bodies which are read.
    pub shown: usize,
    /// Sets that hold nothing but points.
    dotted: usize,
    /// Things in sets that are no curves and no points: surfaces without edges that bound them.
    others: usize,
}

impl Loose {
    pub fn finish(self) -> (Vec<Vec<SplineCurve>>, Vec<Triangles>) {
        (self.wires, self.meshes)
    }

    /// The curves of a set, worked out once; none where it holds none that is read.
    pub fn wire(&mut self, set: &GeometricSet<'_>, progress: &Progress) -> Result<Option<Held>, StepError> {
        if let Some(known) = self.of_key.get(&set.key()) {
            return Ok(*known);
        }
        let (mut curves, mut told, mut surfaces) = (Vec::new(), false, 0);
        for element in set.elements() {
            progress.check()?;
            match element {
                SetElement::Curve(curve) => {
                    curves.extend(self.exact(curve.to_nurbs())?);
                    told = true;
                }
                SetElement::Point(_) => {}
                _ => surfaces += 1,
            }
        }
        self.others += surfaces;
        self.dotted += usize::from(!told && surfaces == 0);
        let held = (!curves.is_empty()).then_some(Held::Wire(self.wires.len()));
        if held.is_some() {
            self.wires.push(curves);
        }
        self.of_key.insert(set.key(), held);
        Ok(held)
    }

    /// The edges that bound no face, as models of edges without faces are written.
    pub fn edges(&mut self, scene: &Scene<'_>, progress: &Progress) -> Result<Option<Held>, StepError> {
        let bounding = bounding(scene.model());
        let mut curves = Vec::new();
        for edge in scene.all_edges().filter(|edge| !bounding.contains(&edge.key())) {
            progress.check()?;
            curves.extend(self.exact(edge.to_nurbs())?);
        }
        if curves.is_empty() {
            return Ok(None);
        }
        self.wires.push(curves);
        Ok(Some(Held::Wire(self.wires.len() - 1)))
    }

    fn exact(&mut self, nurbs: Option<NurbsCurve>) -> Result<Option<SplineCurve>, StepError> {
        let Some(nurbs) = nurbs else {
            self.unread += 1;
            return Ok(None);
        };
        self.curves += 1;
        self.controls += nurbs.control_points.len();
        if self.curves > MOST_CURVES || self.controls > MOST_CONTROLS {
            return Err(StepError::Malformed(format!("it holds more than {MOST_CURVES} curves without a surface")));
        }
        let controls: Option<Vec<_>> =
            nurbs.control_points.iter().zip(&nurbs.weights).map(|(p, w)| Some((point(p)?, *w))).collect();
        let made = controls.and_then(|c| SplineCurve::new(nurbs.degree, nurbs.knots, c));
        self.unread += usize::from(made.is_none());
        Ok(made)
    }

    /// Triangles, worked out once; none where there are none.
    pub fn mesh(&mut self, pieces: &Pieces<'_>, progress: &Progress) -> Result<Option<Held>, StepError> {
        if let Some(known) = self.of_key.get(&pieces.key) {
            return Ok(*known);
        }
        let mut made = Triangles::default();
        for (face, mesh) in pieces.meshes.iter().enumerate() {
            progress.check()?;
            let places = mesh.points();
            self.points += places.len();
            if self.points > MOST_POINTS {
                return Err(StepError::Malformed(format!("its triangles are made of more than {MOST_POINTS} points")));
            }
            let mut number = FxHashMap::default();
            for corners in mesh.triangles() {
                // A triangle with a corner that is no place is none.
                let Some(places) = corners.iter().map(|c| point(&places[*c])).collect::<Option<Vec<_>>>() else {
                    continue;
                };
                let mut id = |k: usize| {
                    *number.entry(corners[k]).or_insert_with(|| {
                        made.points.push(places[k]);
                        made.points.len() as u32 - 1
                    })
                };
                made.triangles.push([id(0), id(1), id(2)]);
                made.face_of.push(face as u32);
            }
        }
        let held = (!made.triangles.is_empty()).then_some(Held::Mesh(self.meshes.len()));
        if held.is_some() {
            self.meshes.push(made);
        }
        self.of_key.insert(pieces.key, held);
        Ok(held)
    }

    /// What was not read, in plain words.
    pub fn notes(&self) -> Vec<String> {
        let told = [
            (self.unread, "left out, for a kind that is not read: curves without a surface"),
            (self.aside, "left out, as they belong to no part: sets of curves or points"),
            (self.others, "left out, for a kind that is not read: surfaces and others in sets of curves"),
            (self.dotted, "left out, as they hold no curves: sets of points"),
            (self.shown, "left out, as they show bodies that were read exactly: sets of triangles"),
        ];
        told.into_iter().filter(|(n, _)| *n > 0).map(|(n, what)| format!("{what} ({n})")).collect()
    }
}

/// The edges in bounds of faces, those of faces that are not read among them.
fn bounding(model: &StepModel) -> FxHashSet<EntityKey> {
    let inner = model.all::<m::FaceBound>().map(|(_, bound)| &bound.bound);
    let outer = model.all::<m::FaceOuterBound>().map(|(_, bound)| &bound.bound);
    let loops = inner.chain(outer).filter_map(|bound| match bound {
        m::LoopRef::EdgeLoop(id) => model.get(*id),
        _ => None,
    });
    let used = loops.flat_map(|bound| &bound.edge_list).filter_map(|used| match used {
        m::OrientedEdgeRef::OrientedEdge(id) => model.get(*id).map(|used| used.edge_element.entity_key()),
        m::OrientedEdgeRef::Complex(_) => None,
    });
    used.collect()
}

/// The sets of triangles of a file by the product they belong to; none: to no product.
pub(super) fn pieces<'m>(scene: &'m Scene<'m>) -> FxHashMap<Option<EntityKey>, Vec<Pieces<'m>>> {
    let model = scene.model();
    let mut all: Vec<Pieces<'m>> = Vec::new();
    for group in scene.all_mesh_groups() {
        all.push(of_group(&group));
    }
    let grouped: FxHashSet<EntityKey> = all.iter().flat_map(|p| &p.meshes).map(|mesh| mesh.key()).collect();
    for mesh in scene.all_meshes().filter(|mesh| !grouped.contains(&mesh.key())) {
        let (key, name, colour, is_shown) = (mesh.key(), mesh.name(), mesh.color(), mesh.face().is_some());
        all.push(Pieces { key, name, colour, meshes: vec![mesh], is_shown });
    }
    let mut by_product: FxHashMap<_, Vec<_>> = FxHashMap::default();
    if !all.is_empty() {
        let owner = owners(model);
        for piece in all {
            by_product.entry(owner.get(&piece.key).copied()).or_default().push(piece);
        }
    }
    by_product
}

fn of_group<'m>(group: &MeshGroup<'m>) -> Pieces<'m> {
    let meshes: Vec<_> = group.meshes().collect();
    // The colour of all its faces is its own.
    let first = meshes.first().and_then(Mesh::color);
    let colour = group.color().or(first.filter(|_| meshes.iter().all(|mesh| mesh.color() == first)));
    Pieces { key: group.key(), name: group.name(), colour, meshes, is_shown: group.solid().is_some() }
}

/// The product each item of a tessellated representation belongs to: by its own representation, or one that stands for the same.
fn owners(model: &StepModel) -> FxHashMap<EntityKey, EntityKey> {
    let mut of_representation: FxHashMap<EntityKey, EntityKey> = FxHashMap::default();
    for (_, shown) in model.all::<m::ShapeDefinitionRepresentation>() {
        let m::RepresentedDefinitionRef::ProductDefinitionShape(shape) = shown.definition else { continue };
        let Some(shape) = model.get(shape) else { continue };
        if let m::CharacterizedDefinitionRef::ProductDefinition(product) = shape.definition {
            of_representation.insert(shown.used_representation.entity_key(), EntityKey::ProductDefinition(product));
        }
    }
    for (_, same) in model.all::<m::ShapeRepresentationRelationship>() {
        let [a, b] = [same.rep_1.entity_key(), same.rep_2.entity_key()];
        for (from, to) in [(a, b), (b, a)] {
            if let Some(product) = of_representation.get(&from).copied() {
                of_representation.entry(to).or_insert(product);
            }
        }
    }
    let mut owner = FxHashMap::default();
    for (id, shown) in model.all::<m::TessellatedShapeRepresentation>() {
        if let Some(product) = of_representation.get(&EntityKey::TessellatedShapeRepresentation(id)) {
            owner.extend(shown.items.iter().map(|item| (item.entity_key(), *product)));
        }
    }
    owner
}
