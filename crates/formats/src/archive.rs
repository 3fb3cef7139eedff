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

/// An archive with the entry that is the model.
pub(crate) struct Archive {
    archive: zip::ZipArchive<Cursor<Vec<u8>>>,
    entry: (String, FileFormat),
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
        let entry = archive.file_names().find_map(|name| Some((name.to_owned(), held(name)?)));
        let none = || ReadError::malformed(Place::Byte(0), "the archive holds no model");
        Ok(Self { entry: entry.ok_or_else(none)?, archive })
    }

    /// What the model in it is.
    pub fn format(&self) -> FileFormat {
        self.entry.1
    }

    /// The model, unpacked as it is read and no longer than its size makes likely.
    pub fn entry(&mut self, limits: &Limits) -> Result<impl Read + '_, ReadError> {
        let file = self.archive.by_name(&self.entry.0).map_err(broken)?;
        let most = (limits.triangles as u64).saturating_mul(BYTES_PER_TRIANGLE);
        let most = most.min(file.compressed_size().saturating_mul(MOST_RATIO)).max(ALWAYS);
        Ok(Growing { file, left: most })
    }
}

/// What comes out of an archive, no longer than so much.
struct Growing<R> {
    file: R,
    left: u64,
}

impl<R: Read> Read for Growing<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        if self.left == 0 {
            return Err(std::io::Error::other(
                "the archive grows to far more than its size, or than a model of the largest size",
            ));
        }
        let most = into.len().min(usize::try_from(self.left).unwrap_or(usize::MAX));
        let got = self.file.read(&mut into[..most])?;
        self.left -= got as u64;
        Ok(got)
    }
}
