//! Archives that hold one model: 3MF, and STEP packed.

use std::io::{Cursor, Read};

use crate::errors::{Place, ReadError};
use crate::input::Input;
use crate::read::{FileFormat, Limits};

/// The most a compressed model may grow to: bounds hostile archives. One triangle takes about 100 bytes of XML.
const BYTES_PER_TRIANGLE: u64 = 400;
/// Digits of coordinates shrink to a tenth by compression, regular lattices to a fortieth.
const MOST_RATIO: u64 = 200;
/// So much may come of any archive.
const ALWAYS: u64 = 16 << 20;

/// Whether bytes begin as an archive does.
pub(crate) fn is_archive(head: &[u8]) -> bool {
    head.starts_with(b"PK\x03\x04")
}

/// More models in one archive are no part.
const MOST_MODELS: usize = 10_000;
/// The model of a 3MF that the others belong to, where the archive does not say otherwise.
const ROOT: &str = "3D/3dmodel.model";

/// An archive with the entries that are models.
pub(crate) struct Archive {
    archive: zip::ZipArchive<Cursor<Vec<u8>>>,
    /// The first is the one the others belong to.
    models: Vec<String>,
    format: FileFormat,
    /// How much may still come out of it.
    left: Option<u64>,
}

fn broken(what: impl std::fmt::Display) -> ReadError {
    ReadError::malformed(Place::Byte(0), format!("the archive is broken: {what}"))
}

impl Archive {
    /// Opens one. Its directory is at its end, so it is held whole; the server limits its size.
    pub fn open<R: Read>(mut input: Input<R>) -> Result<Self, ReadError> {
        let mut bytes = Vec::new();
        let mut part = [0u8; 1 << 16];
        loop {
            let got = input.fill(&mut part)?;
            bytes.extend_from_slice(&part[..got]);
            if got < part.len() {
                break;
            }
        }
        let archive = zip::ZipArchive::new(Cursor::new(bytes)).map_err(broken)?;
        let held = |name: &str| {
            let name = name.to_ascii_lowercase();
            if name.ends_with(".model") {
                Some(FileFormat::ThreeMf)
            } else {
                FileFormat::of_name(&name).filter(|f| *f == FileFormat::Step)
            }
        };
        let first = archive.file_names().find_map(held);
        let none = || ReadError::malformed(Place::Byte(0), "the archive holds no model");
        let format = first.ok_or_else(none)?;
        let mut models: Vec<String> =
            archive.file_names().filter(|n| held(n) == Some(format)).map(str::to_owned).collect();
        if models.len() > MOST_MODELS {
            return Err(ReadError::malformed(Place::Byte(0), "the archive holds more than 10 000 models"));
        }
        models.sort_by_key(|n| !n.trim_start_matches('/').eq_ignore_ascii_case(ROOT));
        Ok(Self { archive, models, format, left: None })
    }

    /// What the models in it are.
    pub fn format(&self) -> FileFormat {
        self.format
    }

    /// The names of the models, the one they belong to first.
    pub fn models(&self) -> &[String] {
        &self.models
    }

    /// A model, unpacked as it is read; all of them no longer than the size of the archive makes likely.
    pub fn entry(&mut self, n: usize, limits: &Limits) -> Result<impl Read + '_, ReadError> {
        let file = self.archive.by_name(&self.models[n]).map_err(broken)?;
        let most = (limits.triangles as u64).saturating_mul(BYTES_PER_TRIANGLE);
        let own = most.min(file.compressed_size().saturating_mul(MOST_RATIO)).max(ALWAYS);
        let left = self.left.get_or_insert_with(|| most.max(ALWAYS));
        Ok(Growing { file, own, left })
    }
}

/// What comes out of an archive, no longer than so much by itself and with the rest.
struct Growing<'a, R> {
    file: R,
    own: u64,
    left: &'a mut u64,
}

impl<R: Read> Read for Growing<'_, R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let left = self.own.min(*self.left);
        if left == 0 {
            return Err(std::io::Error::other(
                "the archive grows to far more than its size, or than a model of the largest size",
            ));
        }
        let most = into.len().min(usize::try_from(left).unwrap_or(usize::MAX));
        let got = self.file.read(&mut into[..most])?;
        self.own -= got as u64;
        *self.left -= got as u64;
        Ok(got)
    }
}
