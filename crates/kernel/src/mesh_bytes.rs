//! The canonical bytes of a mesh: what content hashes are taken of and what storage keeps.
//!
//! Layout, little-endian: magic `NMB1`, `u32` points, `u32` triangles, `u32` bytes of what it was drawn as, then points (3 × `f64`),
//! triangles (3 × `u32`), face ids (`u32`) and those bytes. Equal meshes give equal bytes, and the other way round.

use crate::{Drawn, FaceId, Mesh, MeshError, Point};

const MAGIC: &[u8; 4] = b"NMB1";
const HEADER: usize = 16;

/// Why bytes are not a stored mesh.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum MeshBytesError {
    /// The magic, the counts or the length do not fit each other.
    #[error("the bytes are not a whole stored mesh")]
    NotAMesh,
    /// The arrays break an invariant of [`Mesh`].
    #[error(transparent)]
    Mesh(#[from] MeshError),
}

/// The canonical bytes of `mesh`.
pub fn to_bytes(mesh: &Mesh) -> Vec<u8> {
    let drawn = mesh.drawn().map(Drawn::bytes).unwrap_or_default();
    let counts = [mesh.points().len() as u32, mesh.triangles().len() as u32, drawn.len() as u32];
    let mut out = Vec::with_capacity(HEADER + mesh.points().len() * 24 + mesh.triangles().len() * 16 + drawn.len());
    out.extend_from_slice(MAGIC);
    out.extend_from_slice(bytemuck::cast_slice(&counts));
    out.extend_from_slice(bytemuck::cast_slice(mesh.points()));
    out.extend_from_slice(bytemuck::cast_slice(mesh.triangles()));
    out.extend_from_slice(bytemuck::cast_slice(mesh.face_of()));
    out.extend_from_slice(drawn);
    out
}

/// Reads what [`to_bytes`] wrote.
///
/// # Errors
/// [`MeshBytesError`] when the bytes are cut, foreign or break an invariant.
pub fn from_bytes(bytes: &[u8]) -> Result<Mesh, MeshBytesError> {
    let count = |at: usize| -> Result<usize, MeshBytesError> {
        let four = bytes.get(at..at + 4).ok_or(MeshBytesError::NotAMesh)?;
        Ok(u32::from_le_bytes([four[0], four[1], four[2], four[3]]) as usize)
    };
    if bytes.get(..4) != Some(MAGIC) {
        return Err(MeshBytesError::NotAMesh);
    }
    let (points, triangles, drawn) = (count(4)?, count(8)?, count(12)?);
    let points_end = HEADER + points * 24;
    let triangles_end = points_end + triangles * 12;
    let faces_end = triangles_end + triangles * 4;
    if bytes.len() != faces_end + drawn {
        return Err(MeshBytesError::NotAMesh);
    }
    let mesh = Mesh::new(
        bytemuck::allocation::pod_collect_to_vec::<u8, Point>(&bytes[HEADER..points_end]),
        bytemuck::allocation::pod_collect_to_vec::<u8, [u32; 3]>(&bytes[points_end..triangles_end]),
        bytemuck::allocation::pod_collect_to_vec::<u8, FaceId>(&bytes[triangles_end..faces_end]),
    )?;
    Ok(mesh.drawn_as((drawn > 0).then(|| Drawn::from(bytes[faces_end..].to_vec()))))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn bytes_come_back_as_the_same_mesh_and_cut_bytes_are_refused() {
        let plain = Mesh::with_one_face(vec![Point::ZERO, Point::X, Point::Y * 0.1], vec![[0, 1, 2]]).unwrap();
        let drawn = plain.clone().drawn_as(Some(Drawn::from(b"as it was drawn".to_vec())));
        assert_ne!(to_bytes(&plain), to_bytes(&drawn));
        for mesh in [plain, drawn] {
            let bytes = to_bytes(&mesh);
            assert_eq!(from_bytes(&bytes).unwrap(), mesh);
            for cut in 0..bytes.len() {
                assert!(from_bytes(&bytes[..cut]).is_err(), "cut at {cut}");
            }
        }
        let mesh = from_bytes(&to_bytes(&drawn_square())).unwrap();
        assert!(mesh.drawn().is_some() && mesh.map_points(|p| p * 2.0).unwrap().drawn().is_none(), "another mesh");
    }

    fn drawn_square() -> Mesh {
        let square = vec![Point::ZERO, Point::X, Point::ONE, Point::Y];
        let mesh = Mesh::with_one_face(square, vec![[0, 1, 2], [0, 2, 3]]).unwrap();
        mesh.drawn_as(Some(Drawn::from(b"a square".to_vec())))
    }
}
