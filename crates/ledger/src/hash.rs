//! Names of contents.

use std::fmt;
use std::str::FromStr;

use nimbet_kernel::Mesh;
use schemars::JsonSchema;
use serde::{Deserialize, Deserializer, Serialize, Serializer};

use crate::action::Action;

/// The BLAKE3 hash of some content, written as 64 hexadecimal digits.
#[derive(Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Hash(pub [u8; 32]);

impl Hash {
    /// The hash of bytes.
    pub fn of(bytes: &[u8]) -> Self {
        const PARALLEL_FROM: usize = 1 << 17;
        let mut hasher = blake3::Hasher::new();
        if bytes.len() >= PARALLEL_FROM {
            hasher.update_rayon(bytes)
        } else {
            hasher.update(bytes)
        };
        Self(*hasher.finalize().as_bytes())
    }
}

/// Makes the hash of what comes piece by piece.
#[derive(Clone, Default)]
pub struct Hasher(blake3::Hasher);

impl Hasher {
    /// Takes the next piece.
    pub fn update(&mut self, bytes: &[u8]) {
        self.0.update(bytes);
    }

    /// The hash of all pieces.
    pub fn finish(&self) -> Hash {
        Hash(*self.0.finalize().as_bytes())
    }
}

impl fmt::Display for Hash {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", blake3::Hash::from_bytes(self.0).to_hex())
    }
}

impl fmt::Debug for Hash {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{self}")
    }
}

impl FromStr for Hash {
    type Err = String;
    fn from_str(s: &str) -> Result<Self, String> {
        blake3::Hash::from_hex(s).map(|h| Self(*h.as_bytes())).map_err(|_| "a hash has 64 hexadecimal digits".into())
    }
}

impl Serialize for Hash {
    fn serialize<S: Serializer>(&self, s: S) -> Result<S::Ok, S::Error> {
        s.collect_str(self)
    }
}

impl<'de> Deserialize<'de> for Hash {
    fn deserialize<D: Deserializer<'de>>(d: D) -> Result<Self, D::Error> {
        String::deserialize(d)?.parse().map_err(serde::de::Error::custom)
    }
}

impl JsonSchema for Hash {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "Hash".into()
    }
    fn json_schema(_: &mut schemars::SchemaGenerator) -> schemars::Schema {
        schemars::json_schema!({ "type": "string", "pattern": "^[0-9a-f]{64}$", "description": "Content hash, 64 hexadecimal digits." })
    }
}

/// The content hash of a mesh, and the bytes it is the hash of.
pub fn mesh_hash(mesh: &Mesh) -> (Hash, Vec<u8>) {
    let bytes = nimbet_kernel::mesh_bytes::to_bytes(mesh);
    (Hash::of(&bytes), bytes)
}

/// Changes whenever the same step may give another result than before, or an examination tells something else.
const KERNEL_VERSION: &str = "23";

/// What an examination of a mesh is kept under: its content and the kernel version.
pub fn examination_key(mesh: Hash) -> Hash {
    Hash::of(format!("{KERNEL_VERSION}\nexamination\n{mesh}").as_bytes())
}

/// What a step's result is kept under: kind, parameters, inputs and kernel version.
///
/// # Errors
/// Where the action cannot be written.
pub fn cache_key(action: &Action, inputs: &[Hash]) -> serde_json::Result<Hash> {
    let text = serde_json::to_string(action)?;
    let inputs: String = inputs.iter().map(|h| format!("{h}\n")).collect();
    Ok(Hash::of(format!("{KERNEL_VERSION}\n{inputs}{text}").as_bytes()))
}
