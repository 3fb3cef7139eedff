//! Where along a run sections are given.

use super::{Place, Section, Wanted};

/// About how large a section is, mm.
pub(super) fn size_of(section: Section) -> f64 {
    match section {
        Section::Round { radius } => radius,
        Section::Chamfer { left, right } => left.max(right),
        Section::Bevel { width, .. } => width,
        Section::Over => 0.0,
    }
}

/// Places along a run and where its sections are given, with how far along they are, mm.
pub(crate) fn with_sections(places: Vec<Place>, wanted: &Wanted) -> (Vec<Place>, Vec<f64>) {
    /// Nearer to a place than this share of the run none is added.
    const NEAR: f64 = 1e-6;
    let mut along = vec![0.0];
    for pair in places.windows(2) {
        along.push(along[along.len() - 1] + pair[0].at.distance(pair[1].at));
    }
    let whole = along[along.len() - 1];
    let mut all: Vec<(f64, Place)> = along.iter().copied().zip(places.iter().copied()).collect();
    // Where they only go on as between those before and after, none is needed.
    let bends = |three: &&[(f64, Section)]| {
        let [(a, p), (b, q), (c, r)] = three[..] else { return false };
        let even = size_of(p.between(r, (b - a) / (c - a)));
        (even - size_of(q)).abs() > size_of(q) * 1e-9
    };
    let ends = [wanted.sections.first(), wanted.sections.last()].map(|s| s.map(|s| s.1));
    let [Some(first), Some(last)] = ends else { return (places, along) };
    // Beyond the first and the last they stay.
    let sections = [&[(-1.0, first)], &wanted.sections[..], &[(2.0, last)]].concat();
    for at in sections.windows(3).filter(bends).map(|three| three[1].0 * whole) {
        let n = along.partition_point(|a| *a <= at);
        let (Some(from), Some(to)) = (n.checked_sub(1), along.get(n)) else { continue };
        if at - along[from] > whole * NEAR && to - at > whole * NEAR {
            let (p, q) = (places[from], places[n]);
            let share = (at - along[from]) / (to - along[from]);
            let way = p.along.lerp(q.along, share).normalize_or(p.along);
            all.push((at, Place { at: p.at.lerp(q.at, share), along: way, ..p }));
        }
    }
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all.into_iter().map(|(along, place)| (place, along)).unzip()
}
