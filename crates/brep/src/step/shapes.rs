//! Solids and shells of a file as bodies.

use nimbet_kernel::Point;
use rustc_hash::FxHashMap;
use step_io::Orientation;
use step_io::model::EntityKey;
use step_io::scene::{self, Rgb, Scene};

use super::geometry;
use super::loose::Loose;
use crate::body::{Body, Edge, Face, Loop};
use crate::curve::Curve;
use crate::surface::Surface;

/// The different bodies, as they are met.
pub(super) struct Shapes {
    radians: f64,
    pub bodies: Vec<Body>,
    pub solid: Vec<bool>,
    /// Curves and triangles.
    pub loose: Loose,
    /// Faces whose surface or bounds are of a kind that is not read.
    unread: Vec<&'static str>,
    /// Faces with a colour of their own that is not the body's.
    coloured: usize,
    of_key: FxHashMap<EntityKey, (usize, Option<Rgb>)>,
}

impl Shapes {
    pub fn new(radians: f64) -> Self {
        Self {
            radians,
            bodies: vec![],
            solid: vec![],
            loose: Loose::default(),
            unread: vec![],
            coloured: 0,
            of_key: FxHashMap::default(),
        }
    }

    /// The body of a solid, worked out once, with its colour.
    pub fn solid(&mut self, scene: &Scene<'_>, solid: &scene::Solid<'_>) -> Option<(usize, Option<Rgb>)> {
        let shells: Vec<_> = solid.outer().into_iter().chain(solid.voids()).collect();
        self.body(scene, (solid.key(), solid.color()), &shells, true)
    }

    /// The body of a surface model, with its colour.
    pub fn sheet(&mut self, scene: &Scene<'_>, model: &scene::SurfaceModel<'_>) -> Option<(usize, Option<Rgb>)> {
        let shells: Vec<_> = model.shells().collect();
        self.body(scene, (model.key(), model.color()), &shells, false)
    }

    fn body(
        &mut self,
        scene: &Scene<'_>,
        (key, colour): (EntityKey, Option<Rgb>),
        shells: &[(scene::Shell<'_>, Orientation)],
        solid: bool,
    ) -> Option<(usize, Option<Rgb>)> {
        if let Some(at) = self.of_key.get(&key) {
            return Some(*at);
        }
        let mut making = Making {
            scene,
            radians: self.radians,
            body: Body::default(),
            points: FxHashMap::default(),
            edges: FxHashMap::default(),
        };
        let mut colours = Vec::new();
        for (shell, way) in shells {
            for face in shell.faces() {
                colours.push(face.color());
                match making.face(&face, *way == Orientation::Forward) {
                    Ok(face) => making.body.faces.push(face),
                    Err(kind) => self.unread.push(kind),
                }
            }
        }
        if making.body.faces.is_empty() {
            return None;
        }
        // Some write the colour of a body to each of its faces.
        let (first, of_all) = (colours[0], colours.iter().all(|c| *c == colours[0]));
        let colour = first.filter(|_| of_all).or(colour);
        self.coloured += colours.iter().filter(|c| c.is_some() && **c != colour).count();
        self.bodies.push(making.body);
        self.solid.push(solid);
        let made = (self.bodies.len() - 1, colour);
        self.of_key.insert(key, made);
        Some(made)
    }

    /// What was not read, in plain words.
    pub fn notes(&self) -> Vec<String> {
        let mut notes = Vec::new();
        if let Some(kind) = self.unread.first() {
            notes.push(format!("{} faces were not read, the first for {kind}; they are open", self.unread.len()));
        }
        notes.extend(self.loose.notes());
        if self.coloured > 0 {
            notes.push(format!("the colours of {} faces were left out", self.coloured));
        }
        notes
    }
}

struct Making<'a, 'm> {
    scene: &'a Scene<'m>,
    radians: f64,
    body: Body,
    points: FxHashMap<EntityKey, u32>,
    edges: FxHashMap<EntityKey, Option<u32>>,
}

impl Making<'_, '_> {
    fn vertex(&mut self, vertex: Option<scene::Vertex<'_>>) -> Option<u32> {
        let vertex = vertex?;
        if let Some(at) = self.points.get(&vertex.key()) {
            return Some(*at);
        }
        let at = geometry::point(vertex.point()?.coords())?;
        let id = u32::try_from(self.body.points.len()).ok()?;
        self.body.points.push(at);
        self.points.insert(vertex.key(), id);
        Some(id)
    }

    /// An edge, worked out once.
    fn edge(&mut self, edge: &scene::Edge<'_>) -> Option<u32> {
        if let Some(known) = self.edges.get(&edge.key()) {
            return *known;
        }
        let made = self.new_edge(edge);
        self.edges.insert(edge.key(), made);
        made
    }

    fn new_edge(&mut self, edge: &scene::Edge<'_>) -> Option<u32> {
        let ends = [self.vertex(edge.start())?, self.vertex(edge.end())?];
        let places = ends.map(|id| self.body.points[id as usize]);
        // Closed edges may have two vertices at one place.
        let apart = (places[0] - places[1]).length();
        let closed = ends[0] == ends[1] || apart <= places[0].abs().max_element().max(1.0) * 1e-12;
        let (curve, mut range) = geometry::edge_curve(self.scene.model(), edge, places, closed)?;
        let id = u32::try_from(self.body.edges.len()).ok()?;
        // A closed spline begins where it was written to, not at its vertex.
        let mut turned = None;
        if let (true, Curve::Spline(spline)) = (closed, &curve) {
            let start = Curve::nearest(spline, places[0]);
            let [from, to] = range;
            let (near, tiny) = (start - from, (to - from) * 1e-9);
            if near > tiny && to - start > tiny {
                turned = Some([[start, to], [from, start]]);
            }
            if !edge.same_sense() {
                range = [to, from];
            }
        }
        if let Some([late, early]) = turned {
            return self.in_two(curve, (late, early), ends, edge.same_sense());
        }
        self.body.edges.push(Edge { curve, range, ends });
        Some(id)
    }

    /// A closed curve that begins elsewhere than its edge: one edge of two stretches has no form here, so that its points are put
    /// down as those of a spline of its own.
    fn in_two(
        &mut self,
        curve: Curve,
        (late, early): ([f64; 2], [f64; 2]),
        ends: [u32; 2],
        forward: bool,
    ) -> Option<u32> {
        let Curve::Spline(spline) = curve else { return None };
        let curve = Curve::Turned { spline, start: late[0], from: early[0] };
        let length = (late[1] - late[0]) + (early[1] - early[0]);
        let range = if forward { [0.0, length] } else { [length, 0.0] };
        let id = u32::try_from(self.body.edges.len()).ok()?;
        self.body.edges.push(Edge { curve, range, ends });
        Some(id)
    }

    /// A face, or the kind of what is not read.
    fn face(&mut self, face: &scene::Face<'_>, forward: bool) -> Result<Face, &'static str> {
        let (surface, turned) =
            geometry::surface(self.scene.model(), face, self.radians).ok_or("a surface of a kind that is not read")?;
        let mut loops = Vec::new();
        for bound in face.bounds() {
            if let Some(vertex) = bound.vertex() {
                loops.push(Loop::Point(self.vertex(Some(vertex)).ok_or("a point that is not read")?));
                continue;
            }
            let along = bound.orientation() == Orientation::Forward;
            let mut edges = Vec::new();
            for (edge, way) in bound.oriented_edges() {
                let id = self.edge(&edge).ok_or("an edge of a kind that is not read")?;
                edges.push((id, (way == Orientation::Forward) == along));
            }
            if !along {
                edges.reverse();
            }
            edges.retain(|(e, _)| !self.is_point(*e));
            loops.push(Loop::Edges(edges));
        }
        let mut same_sense = (face.orientation() == Orientation::Forward) != turned;
        if !forward {
            same_sense = !same_sense;
            for bound in &mut loops {
                if let Loop::Edges(edges) = bound {
                    edges.reverse();
                    edges.iter_mut().for_each(|e| e.1 = !e.1);
                }
            }
        }
        let unbounded = matches!(surface, Surface::Plane(_) | Surface::Cylinder { .. } | Surface::Cone { .. });
        let bounded = loops.iter().any(|l| matches!(l, Loop::Edges(e) if !e.is_empty()));
        if unbounded && !bounded {
            return Err("a surface without bounds");
        }
        Ok(Face { surface, same_sense, loops })
    }

    /// Whether an edge is a mere point, as some write at poles.
    fn is_point(&self, edge: u32) -> bool {
        let edge = &self.body.edges[edge as usize];
        let [a, b] = edge.ends.map(|id| self.body.points[id as usize]);
        matches!(edge.curve, Curve::Line)
            && (edge.ends[0] == edge.ends[1] || (a - b).length() <= Point::length(a).max(1.0) * 1e-12)
    }
}
