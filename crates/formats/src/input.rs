//! Bytes and lines with their place, bounded.

use std::io::{BufRead, BufReader, Read};

use crate::errors::{Place, ReadError};

/// The longest line that is read: long enough for a polygon of some thousand corners.
pub(crate) const LONGEST_LINE: usize = 1 << 20;

/// A buffered input that knows where it is.
pub(crate) struct Input<R> {
    reader: BufReader<R>,
    pub offset: u64,
    pub line: u64,
    buffer: Vec<u8>,
}

impl<R: Read> Input<R> {
    pub fn new(reader: R) -> Self {
        Self { reader: BufReader::with_capacity(1 << 18, reader), offset: 0, line: 0, buffer: Vec::new() }
    }

    /// The first bytes, without taking them.
    pub fn peek(&mut self) -> Result<&[u8], ReadError> {
        Ok(self.reader.fill_buf()?)
    }

    /// What is left of it.
    pub fn into_reader(self) -> BufReader<R> {
        self.reader
    }

    pub fn at_byte(&self) -> Place {
        Place::Byte(self.offset)
    }

    pub fn at_line(&self) -> Place {
        Place::Line(self.line)
    }

    /// Fills as much of `into` as there is; gives how much.
    pub fn fill(&mut self, into: &mut [u8]) -> Result<usize, ReadError> {
        let mut got = 0;
        while got < into.len() {
            match self.reader.read(&mut into[got..])? {
                0 => break,
                n => got += n,
            }
        }
        self.offset += got as u64;
        Ok(got)
    }

    /// Exactly `N` bytes.
    pub fn take<const N: usize>(&mut self, missing: &str) -> Result<[u8; N], ReadError> {
        let mut bytes = [0; N];
        if self.fill(&mut bytes)? < N {
            return Err(ReadError::Truncated { at: self.at_byte(), missing: missing.into() });
        }
        Ok(bytes)
    }

    /// The next line without its end, or `None` at the end of the file.
    pub fn next_line(&mut self) -> Result<Option<&str>, ReadError> {
        self.buffer.clear();
        let got = (&mut self.reader).take(LONGEST_LINE as u64).read_until(b'\n', &mut self.buffer)?;
        if got == 0 {
            return Ok(None);
        }
        self.line += 1;
        self.offset += got as u64;
        if got == LONGEST_LINE {
            return Err(ReadError::malformed(self.at_line(), "the line is too long to be part of a model"));
        }
        match std::str::from_utf8(&self.buffer) {
            Ok(text) => Ok(Some(text.trim())),
            Err(_) => Err(ReadError::malformed(Place::Line(self.line), "the line is not text")),
        }
    }

    /// The next line that is neither blank nor a `#` comment, split off from its comment.
    pub fn next_words(&mut self) -> Result<Option<String>, ReadError> {
        while let Some(line) = self.next_line()? {
            let words = line.split('#').next().unwrap_or("").trim();
            if !words.is_empty() {
                return Ok(Some(words.to_owned()));
            }
        }
        Ok(None)
    }
}

/// A finite number from a word.
pub(crate) fn number(word: Option<&str>, at: Place) -> Result<f64, ReadError> {
    let word = word.ok_or_else(|| ReadError::malformed(at, "a coordinate is missing"))?;
    let value: f64 = word.parse().map_err(|_| ReadError::malformed(at, format!("'{}' is no number", shown(word))))?;
    if value.is_finite() { Ok(value) } else { Err(ReadError::NotFinite { at }) }
}

/// Three finite numbers from words.
pub(crate) fn point<'a>(
    words: &mut impl Iterator<Item = &'a str>,
    at: Place,
) -> Result<nimbet_kernel::Point, ReadError> {
    Ok(nimbet_kernel::Point::new(number(words.next(), at)?, number(words.next(), at)?, number(words.next(), at)?))
}

/// A word short enough to show in a message.
pub(crate) fn shown(word: &str) -> String {
    word.chars().take(24).collect()
}
