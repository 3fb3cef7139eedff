//! Writes glTF 2.0 binary (ISO/IEC 12113): named primitives with accessors over one buffer.

use std::io::Write;

use nimbet_kernel::Point;
use serde_json::{Value, json};

use crate::write::Body;

/// A glTF document under construction.
pub(crate) struct Glb {
    bytes: Vec<u8>,
    views: Vec<Value>,
    accessors: Vec<Value>,
    meshes: Vec<Value>,
    materials: Vec<Value>,
}

/// A body in a file of its own, its numbers metres; up is `y` there, as the standard demands.
pub(crate) fn write(body: &Body<'_>, out: &mut impl Write) -> std::io::Result<()> {
    let mut glb = Glb::new();
    glb.paint(body.name, body.colour);
    let turned: Vec<Point> = body.mesh.points().iter().map(|p| Point::new(p.x, p.z, -p.y)).collect();
    let indices = glb.indices(bytemuck::cast_slice(body.mesh.triangles()));
    let positions = glb.positions(&turned);
    glb.mesh(body.name, json!({ "POSITION": positions }), Some(indices), Mode::Triangles);
    out.write_all(&glb.finish())
}

/// Component types of the standard.
const BYTE: u32 = 5120;
const UNSIGNED_INT: u32 = 5125;
const FLOAT: u32 = 5126;

/// Primitive modes of the standard.
#[derive(Clone, Copy)]
pub(crate) enum Mode {
    Lines = 1,
    LineStrip = 3,
    Triangles = 4,
}

impl Glb {
    pub fn new() -> Self {
        Self { bytes: Vec::new(), views: vec![], accessors: vec![], meshes: vec![], materials: vec![] }
    }

    fn view(&mut self, data: &[u8], stride: Option<usize>) -> usize {
        let mut view = json!({ "buffer": 0, "byteOffset": self.bytes.len(), "byteLength": data.len() });
        if let Some(stride) = stride {
            view["byteStride"] = stride.into();
        }
        self.bytes.extend_from_slice(data);
        self.bytes.resize(self.bytes.len().next_multiple_of(4), 0);
        self.views.push(view);
        self.views.len() - 1
    }

    fn accessor(&mut self, view: usize, component: u32, kind: &str, count: usize, more: Value) -> usize {
        let mut accessor = json!({ "bufferView": view, "componentType": component, "type": kind, "count": count });
        if let (Some(into), Value::Object(more)) = (accessor.as_object_mut(), more) {
            into.extend(more);
        }
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }

    /// Positions, mm, rounded to single precision as the standard demands.
    pub fn positions(&mut self, points: &[Point]) -> usize {
        let floats: Vec<[f32; 3]> = points.iter().map(|p| p.as_vec3().to_array()).collect();
        let view = self.view(bytemuck::cast_slice(&floats), None);
        let fold = |f: fn(f32, f32) -> f32| {
            floats.iter().copied().reduce(|a, b| [f(a[0], b[0]), f(a[1], b[1]), f(a[2], b[2])]).unwrap_or_default()
        };
        let more = json!({ "min": fold(f32::min), "max": fold(f32::max) });
        self.accessor(view, FLOAT, "VEC3", points.len(), more)
    }

    /// Unit normals in signed bytes.
    pub fn normals(&mut self, normals: &[Point]) -> usize {
        let bytes: Vec<[i8; 4]> = normals
            .iter()
            .map(|n| {
                let q = |x: f64| (x * 127.0).round() as i8;
                [q(n.x), q(n.y), q(n.z), 0]
            })
            .collect();
        let view = self.view(bytemuck::cast_slice(&bytes), Some(4));
        self.accessor(view, BYTE, "VEC3", normals.len(), json!({ "normalized": true }))
    }

    pub fn scalars(&mut self, values: &[f32]) -> usize {
        let view = self.view(bytemuck::cast_slice(values), None);
        self.accessor(view, FLOAT, "SCALAR", values.len(), json!({}))
    }

    pub fn indices(&mut self, indices: &[u32]) -> usize {
        let view = self.view(bytemuck::cast_slice(indices), None);
        self.accessor(view, UNSIGNED_INT, "SCALAR", indices.len(), json!({}))
    }

    pub fn mesh(&mut self, name: &str, attributes: Value, indices: Option<usize>, mode: Mode) {
        let mut primitive = json!({ "attributes": attributes, "mode": mode as u32 });
        if let Some(indices) = indices {
            primitive["indices"] = indices.into();
        }
        if !self.materials.is_empty() {
            primitive["material"] = (self.materials.len() - 1).into();
        }
        self.meshes.push(json!({ "name": name, "primitives": [primitive] }));
    }

    /// What the meshes added from here on are painted with.
    fn paint(&mut self, name: &str, colour: [u8; 3]) {
        // From the screen's encoding to linear intensities (IEC 61966-2-1).
        let linear = |c: u8| {
            let c = f64::from(c) / 255.0;
            if c <= 0.040_45 { c / 12.92 } else { ((c + 0.055) / 1.055).powf(2.4) }
        };
        let [r, g, b] = colour.map(linear);
        let look = json!({ "baseColorFactor": [r, g, b, 1.0], "metallicFactor": 0.0, "roughnessFactor": 0.6 });
        self.materials.push(json!({ "name": name, "pbrMetallicRoughness": look }));
    }

    /// The bytes of the file.
    pub fn finish(self) -> Vec<u8> {
        let nodes: Vec<Value> =
            self.meshes.iter().enumerate().map(|(i, m)| json!({ "name": m["name"], "mesh": i })).collect();
        let mut document = json!({
            "asset": { "version": "2.0", "generator": "nimbet" },
            "scene": 0,
            "scenes": [{ "nodes": (0..nodes.len()).collect::<Vec<_>>() }],
            "nodes": nodes, "meshes": self.meshes,
        });
        if !self.materials.is_empty() {
            document["materials"] = self.materials.into();
        }
        if !self.bytes.is_empty() {
            document["accessors"] = self.accessors.into();
            document["bufferViews"] = self.views.into();
            document["buffers"] = json!([{ "byteLength": self.bytes.len() }]);
        }
        let mut text = document.to_string().into_bytes();
        text.resize(text.len().next_multiple_of(4), b' ');
        let total = 12 + 8 + text.len() + 8 + self.bytes.len();
        let mut out = Vec::with_capacity(total);
        out.extend_from_slice(b"glTF");
        out.extend_from_slice(&2u32.to_le_bytes());
        out.extend_from_slice(&(total as u32).to_le_bytes());
        out.extend_from_slice(&(text.len() as u32).to_le_bytes());
        out.extend_from_slice(b"JSON");
        out.extend_from_slice(&text);
        out.extend_from_slice(&(self.bytes.len() as u32).to_le_bytes());
        out.extend_from_slice(b"BIN\0");
        out.extend_from_slice(&self.bytes);
        out
    }
}
