//! Reads glTF 2.0 (ISO/IEC 12113), as one file: triangles of all primitives where their nodes stand, names, and
//! the base colour; materials are groups.
//! Up is `y` there and lengths are metres; here up is `z`.

use std::io::Read;

use gltf::mesh::Mode;
use gltf::{Accessor, Node, Primitive};
use nimbet_kernel::{Point, Progress};

use crate::errors::{Place, ReadError};
use crate::groups::Groups;
use crate::polygons::Polygons;
use crate::read::{FileBody, Held, Limits};
use crate::units::LengthUnit;

/// So deep nodes may stand in each other.
const DEEPEST: usize = 64;
/// More nodes are no part.
const MOST_NODES: usize = 100_000;
/// Bytes a triangle may take, with all that may be kept of it.
const BYTES_PER_TRIANGLE: u64 = 1000;
/// So much is always read.
const ALWAYS: u64 = 16 << 20;

fn fault(what: impl Into<String>) -> ReadError {
    ReadError::malformed(Place::Byte(0), what)
}

pub(crate) fn read(
    input: impl Read,
    limits: &Limits,
    progress: &Progress,
    notes: &mut Vec<String>,
) -> Result<Held, ReadError> {
    let most = (limits.triangles as u64).saturating_mul(BYTES_PER_TRIANGLE).max(ALWAYS);
    let mut bytes = Vec::new();
    input.take(most.saturating_add(1)).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > most {
        return Err(ReadError::TooManyTriangles { limit: limits.triangles });
    }
    refuse_needed(&bytes)?;
    let gltf::Gltf { document, blob } = gltf::Gltf::from_slice(&bytes).map_err(|e| fault(e.to_string()))?;
    drop(bytes);
    let buffers: Vec<Vec<u8>> = document.buffers().map(|b| contents(&b, blob.as_deref())).collect::<Result<_, _>>()?;
    let built = Polygons::new(limits, progress);
    let mut walk = Walk { buffers, built, bodies: vec![], nodes: 0, of_material: Groups::new(), dropped: 0 };
    let scene = document.default_scene().or_else(|| document.scenes().next());
    let up = glam::DMat4::from_rotation_x(std::f64::consts::FRAC_PI_2);
    match scene {
        Some(scene) => scene.nodes().try_for_each(|n| walk.node(&n, up, 0))?,
        None => {
            let below: std::collections::HashSet<usize> =
                document.nodes().flat_map(|n| n.children().map(|c| c.index()).collect::<Vec<_>>()).collect();
            let mut roots = document.nodes().filter(|n| !below.contains(&n.index()));
            roots.try_for_each(|n| walk.node(&n, up, 0))?;
        }
    }
    if walk.dropped > 0 {
        notes.push(format!("{} primitives of lines or points were left out", walk.dropped));
    }
    notes.push("what is up there (y) is up here (z)".into());
    Ok(Held { mesh: walk.built.finish()?, tells_groups: false, bodies: walk.bodies, unit: Some(LengthUnit::Metre) })
}

/// Refuses what cannot be read without an extension that is not known here, by name, and what names accessors that are not there.
fn refuse_needed(bytes: &[u8]) -> Result<(), ReadError> {
    let text = match bytes.get(..4) {
        Some(b"glTF") => {
            let length = bytes.get(12..16).and_then(|b| b.try_into().ok()).map_or(0, u32::from_le_bytes) as usize;
            bytes.get(20..20usize.saturating_add(length)).ok_or_else(|| fault("its first chunk is cut off"))?
        }
        _ => bytes,
    };
    #[derive(serde::Deserialize)]
    #[serde(rename_all = "camelCase")]
    struct Head {
        #[serde(default)]
        extensions_required: Vec<String>,
        #[serde(default)]
        accessors: Vec<serde::de::IgnoredAny>,
        #[serde(default)]
        meshes: Vec<MeshHead>,
    }
    #[derive(serde::Deserialize)]
    struct MeshHead {
        #[serde(default)]
        primitives: Vec<PrimitiveHead>,
    }
    #[derive(serde::Deserialize)]
    struct PrimitiveHead {
        #[serde(default)]
        attributes: std::collections::HashMap<String, usize>,
    }
    /// Those that change nothing of the shape.
    const HARMLESS: [&str; 4] =
        ["KHR_materials_unlit", "KHR_texture_transform", "KHR_materials_transmission", "KHR_materials_ior"];
    let head: Head = serde_json::from_slice(text)
        .map_err(|e| ReadError::malformed(Place::Line(e.line() as u64), format!("no glTF: {e}")))?;
    // The library takes for granted that these are there.
    let named = head.meshes.iter().flat_map(|m| &m.primitives).flat_map(|p| p.attributes.values());
    if let Some(missing) = named.copied().find(|n| *n >= head.accessors.len()) {
        return Err(fault(format!("a primitive names accessor {missing}; there are {}", head.accessors.len())));
    }
    match head.extensions_required.iter().find(|e| !HARMLESS.contains(&e.as_str())) {
        Some(needed) => Err(ReadError::Unsupported {
            what: format!("the extension {}", needed.chars().take(64).collect::<String>()),
        }),
        None => Ok(()),
    }
}

/// The bytes of a buffer: those of the file itself, or written into it.
fn contents(buffer: &gltf::Buffer<'_>, blob: Option<&[u8]>) -> Result<Vec<u8>, ReadError> {
    let bytes = match buffer.source() {
        gltf::buffer::Source::Bin => blob.map(<[u8]>::to_vec).ok_or_else(|| fault("its binary chunk is missing"))?,
        gltf::buffer::Source::Uri(uri) => {
            use base64::Engine;
            let data = uri.strip_prefix("data:").and_then(|d| d.split_once(";base64,")).map(|(_, data)| data);
            let data = data.ok_or_else(|| ReadError::Unsupported {
                what: "a buffer in another file; GLB holds all in one".into(),
            })?;
            base64::prelude::BASE64_STANDARD.decode(data).map_err(|e| fault(format!("a buffer is broken: {e}")))?
        }
    };
    if bytes.len() < buffer.length() {
        return Err(fault(format!("a buffer has {} bytes instead of {}", bytes.len(), buffer.length())));
    }
    Ok(bytes)
}

struct Walk<'a> {
    buffers: Vec<Vec<u8>>,
    built: Polygons<'a>,
    bodies: Vec<FileBody>,
    nodes: usize,
    of_material: Groups<Option<usize>>,
    /// Primitives without triangles.
    dropped: usize,
}

impl Walk<'_> {
    fn node(&mut self, node: &Node<'_>, place: glam::DMat4, depth: usize) -> Result<(), ReadError> {
        self.nodes += 1;
        if self.nodes > MOST_NODES {
            return Err(fault("there are more than 100 000 nodes"));
        }
        let own = glam::Mat4::from_cols_array_2d(&node.transform().matrix()).as_dmat4();
        let place = place * own;
        if let Some(mesh) = node.mesh() {
            let from = self.built.count();
            for primitive in mesh.primitives() {
                self.primitive(&primitive, place)?;
            }
            let name = node.name().or(mesh.name()).unwrap_or_default().to_owned();
            let colour = mesh.primitives().next().and_then(|p| colour(&p));
            if self.built.count() > from {
                self.bodies.push(FileBody { name, colour, triangles: from..self.built.count(), ..FileBody::default() });
            }
        }
        if depth > DEEPEST {
            return Err(fault("its nodes stand in each other more than 64 deep, or in themselves"));
        }
        node.children().try_for_each(|child| self.node(&child, place, depth + 1))
    }

    fn primitive(&mut self, primitive: &Primitive<'_>, place: glam::DMat4) -> Result<(), ReadError> {
        let Some(positions) = primitive.get(&gltf::Semantic::Positions) else { return Ok(()) };
        if !matches!(primitive.mode(), Mode::Triangles | Mode::TriangleStrip | Mode::TriangleFan) {
            self.dropped += 1;
            return Ok(());
        }
        self.held(&positions)?;
        self.built.group = self.of_material.number(primitive.material().index());
        if let Some(indices) = primitive.indices() {
            self.held(&indices)?;
        }
        let buffers = &self.buffers;
        let reader = primitive.reader(|b| buffers.get(b.index()).map(Vec::as_slice));
        let points = reader.read_positions().ok_or_else(|| fault("a primitive has no places"))?;
        let first = self.built.points.len() as i64;
        for p in points {
            let p = place.transform_point3(Point::new(p[0].into(), p[1].into(), p[2].into()));
            if !p.is_finite() {
                return Err(ReadError::NotFinite { at: Place::Byte(0) });
            }
            self.built.add_point(p)?;
        }
        let count = self.built.points.len() as i64 - first;
        let corners: Vec<i64> = match reader.read_indices() {
            Some(indices) => indices.into_u32().map(i64::from).collect(),
            None => (0..count).collect(),
        };
        if let Some(index) = corners.iter().copied().find(|c| *c >= count) {
            return Err(ReadError::IndexOutOfRange { at: Place::Byte(0), index, count: count as usize });
        }
        // Seen in a mirror, triangles turn over.
        let mirrored = place.determinant() < 0.0;
        let mut add = |[a, b, c]: [i64; 3], turned: bool| {
            let [b, c] = if turned != mirrored { [c, b] } else { [b, c] };
            self.built.add_polygon(&[a, b, c].map(|n| n + first), Place::Byte(0))
        };
        match primitive.mode() {
            Mode::Triangles => corners.chunks_exact(3).try_for_each(|t| add([t[0], t[1], t[2]], false)),
            Mode::TriangleStrip => {
                corners.windows(3).enumerate().try_for_each(|(n, t)| add([t[0], t[1], t[2]], n % 2 == 1))
            }
            _ => corners.windows(2).skip(1).try_for_each(|t| add([corners[0], t[0], t[1]], false)),
        }
    }

    /// Whether all that an accessor names is there.
    fn held(&self, accessor: &Accessor<'_>) -> Result<(), ReadError> {
        if accessor.sparse().is_some() {
            return Err(ReadError::Unsupported { what: "sparse accessors".into() });
        }
        let view = accessor.view().ok_or_else(|| ReadError::Unsupported { what: "accessors without bytes".into() })?;
        let size = accessor.size();
        let stride = view.stride().unwrap_or(size);
        let end = stride.checked_mul(accessor.count().saturating_sub(1)).and_then(|n| n.checked_add(size));
        let end = end.and_then(|n| n.checked_add(accessor.offset()));
        let held = self.buffers.get(view.buffer().index()).map_or(0, Vec::len);
        let within = end.is_some_and(|end| end <= view.length())
            && view.offset().checked_add(view.length()).is_some_and(|end| end <= held)
            && stride >= size;
        if within { Ok(()) } else { Err(fault(format!("accessor {} reaches beyond its bytes", accessor.index()))) }
    }
}

/// The base colour of a primitive, in the eight bits of a screen.
fn colour(primitive: &Primitive<'_>) -> Option<[u8; 3]> {
    primitive.material().index()?;
    let [r, g, b, _] = primitive.material().pbr_metallic_roughness().base_color_factor();
    // What is white is coloured by a picture, or not at all.
    let plain = [r, g, b] == [1.0; 3];
    (!plain).then(|| [r, g, b].map(|c| (encoded(c.clamp(0.0, 1.0)) * 255.0).round() as u8))
}

/// A linear intensity as the screen's standard encodes it (IEC 61966-2-1).
fn encoded(c: f32) -> f32 {
    if c <= 0.003_130_8 { c * 12.92 } else { 1.055 * c.powf(1.0 / 2.4) - 0.055 }
}
