//! What the parser does not know as what it does, rewritten while the bytes come in, all else as it is: faces of plain triangles as
//! faces of strips of one triangle each; surfaces trimmed by their parameters as surfaces at no distance, since the bounds of a face
//! trim it anyway.

use std::io::{BufRead, BufReader, Read};

/// Keywords of plain triangles; that of strips is the same with this before it.
const PLAIN: [&[u8]; 2] = [b"TRIANGULATED_FACE", b"TRIANGULATED_SURFACE_SET"];
const STRIPS: &[u8] = b"COMPLEX_";
/// The keyword of surfaces trimmed by their parameters, and of surfaces at a distance.
const TRIMMED: &[u8] = b"RECTANGULAR_TRIMMED_SURFACE";
const OFFSET: &[u8] = b"OFFSET_SURFACE";
/// An entity of these that is longer stays as it is, and is told as one that is not read.
const LONGEST: usize = 1 << 28;
/// Keywords are no longer than this.
const LONGEST_WORD: usize = 64;

/// Bytes of a file as the parser knows them.
pub(super) struct AsKnown<R> {
    input: BufReader<R>,
    /// What was rewritten and is not yet taken, and how much of it is.
    ready: Vec<u8>,
    taken: usize,
    /// Whether what comes next is within a text.
    quoted: bool,
    /// What was read of the keyword after `=`; none elsewhere.
    word: Option<Vec<u8>>,
}

impl<R: Read> AsKnown<R> {
    pub fn new(input: R) -> Self {
        Self { input: BufReader::with_capacity(1 << 16, input), ready: vec![], taken: 0, quoted: false, word: None }
    }

    /// Reads on a little; false at the end. A keyword is held back until it is known which it is.
    fn more(&mut self) -> std::io::Result<bool> {
        self.ready.clear();
        self.taken = 0;
        self.ready.extend(self.word.iter().flatten());
        let some = self.input.fill_buf()?;
        if some.is_empty() {
            self.word = None;
            return Ok(!self.ready.is_empty());
        }
        let length = some.len();
        for (n, byte) in some.iter().enumerate() {
            self.ready.push(*byte);
            if self.quoted || *byte == b'\'' {
                self.quoted ^= *byte == b'\'';
                self.word = None;
                continue;
            }
            match &mut self.word {
                _ if *byte == b'=' => self.word = Some(vec![]),
                Some(word) if byte.is_ascii_whitespace() && word.is_empty() => {}
                Some(word) if word.len() < LONGEST_WORD && (byte.is_ascii_uppercase() || *byte == b'_') => {
                    word.push(*byte)
                }
                Some(word) if *byte == b'(' && (word == TRIMMED || PLAIN.contains(&word.as_slice())) => {
                    self.ready.truncate(self.ready.len() - 1 - word.len());
                    let word = std::mem::take(word);
                    self.word = None;
                    self.input.consume(n + 1);
                    self.entity(&word)?;
                    return Ok(true);
                }
                _ => self.word = None,
            }
        }
        self.input.consume(length);
        self.ready.truncate(self.ready.len() - self.word.as_ref().map_or(0, Vec::len));
        Ok(true)
    }

    /// Reads an entity from its bracket to its end and rewrites it; what is not as it should be stays.
    fn entity(&mut self, word: &[u8]) -> std::io::Result<()> {
        let mut rest = Vec::new();
        loop {
            let before = rest.len();
            (&mut self.input).take((LONGEST - before.min(LONGEST)) as u64).read_until(b';', &mut rest)?;
            let quotes = rest.iter().filter(|b| **b == b'\'').count();
            if rest.len() == before || rest.len() >= LONGEST || quotes % 2 == 0 {
                break;
            }
        }
        let (known, rest) = match word {
            TRIMMED => at_no_distance(&rest).map_or((word.to_vec(), rest), |new| (OFFSET.to_vec(), new)),
            _ => ([STRIPS, word].concat(), in_strips(&rest).unwrap_or(rest)),
        };
        self.ready.extend([&known[..], b"(", &rest].concat());
        Ok(())
    }
}

/// The arguments of an entity up to its semicolon, with the last, a list of triangles, as strips, and no fans; none where it is no such list.
fn in_strips(rest: &[u8]) -> Option<Vec<u8>> {
    let end = rest.iter().rposition(|b| *b == b')')?;
    // The comma before the last argument, outside of brackets and texts.
    let (mut depth, mut quoted, mut comma) = (0usize, false, None);
    for (n, byte) in rest[..end].iter().enumerate() {
        match byte {
            b'\'' => quoted = !quoted,
            _ if quoted => {}
            b'(' => depth += 1,
            b')' => depth = depth.checked_sub(1)?,
            b',' if depth == 0 => comma = Some(n),
            _ => {}
        }
    }
    let comma = comma?;
    let list = std::str::from_utf8(&rest[comma + 1..end]).ok()?;
    let triangles = list.trim().strip_prefix('(')?.strip_suffix(')')?;
    let mut out = rest[..=comma].to_vec();
    out.push(b'(');
    for (n, triangle) in
        triangles.split(')').map(|t| t.trim_matches(|c: char| c.is_whitespace() || c == ',')).enumerate()
    {
        if triangle.is_empty() {
            continue;
        }
        let mut corners = triangle.strip_prefix('(')?.split(',').map(str::trim);
        let [a, b, c] = [corners.next()?, corners.next()?, corners.next()?];
        if corners.next().is_some() {
            return None;
        }
        // The first triangle of a strip is written the other way round.
        let written = format!("{}({a},{c},{b})", if n > 0 { "," } else { "" });
        out.extend_from_slice(written.as_bytes());
    }
    out.extend_from_slice(b"),()");
    out.extend_from_slice(&rest[end..]);
    Some(out)
}

/// The arguments of a surface trimmed by its parameters, name, surface, four figures and which way each parameter runs, as those of one
/// at no distance; none where only one of the parameters is turned, as its other side is meant then.
fn at_no_distance(rest: &[u8]) -> Option<Vec<u8>> {
    let text = std::str::from_utf8(rest).ok()?;
    let (arguments, end) = text.rsplit_once(')')?;
    let mut last = arguments.rsplitn(7, ',').map(str::trim);
    let ways = [last.next()?, last.next()?];
    let figures = [last.next()?, last.next()?, last.next()?, last.next()?];
    let whole = ways[0] == ways[1] && figures.iter().all(|f| f.parse::<f64>().is_ok());
    let of = last.next().filter(|_| whole)?;
    Some(format!("{of},0.,.F.){end}").into_bytes())
}

impl<R: Read> Read for AsKnown<R> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        while self.taken == self.ready.len() {
            if !self.more()? {
                return Ok(0);
            }
        }
        let some = (self.ready.len() - self.taken).min(into.len());
        into[..some].copy_from_slice(&self.ready[self.taken..self.taken + some]);
        self.taken += some;
        Ok(some)
    }
}
