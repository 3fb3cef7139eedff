//! Where all sections of a closed run end in one point, since the face within it vanishes.

use nimbet_kernel::Point;

use super::Builder;
use crate::station::slerp;

impl Builder<'_> {
    /// The part of a ball between the face round a run and a level half a piece below the point: nothing touches the face that goes.
    pub(super) fn tip(&mut self, number: usize, pieces: usize, side: usize) {
        let spine = &self.spines[number];
        let sag = spine.runs().map(|run| self.graph.sag(&self.graph.runs[run as usize])).fold(0.0, f64::max);
        let mut chains: Vec<Vec<u32>> = Vec::with_capacity(spine.stations.len());
        for (place, station) in spine.places.iter().zip(&spine.stations) {
            let Some(centre) = station.centre else { return };
            let (foot, tip) = (station.feet[1 - side], station.feet[side]);
            let at = |k: usize| slerp(centre, foot, tip, k as f64 / (pieces as f64 + 0.5));
            let points: Vec<Point> = (0..=pieces).map(at).collect();
            let far = (self.height(station, &points, sag), sag);
            let flap = self.flap((station, place.faces), [points[0], points[1]], 1 - side, far, spine.convex);
            let flap: Vec<u32> = flap.into_iter().map(|p| self.put(p)).collect();
            // As many in each chain: the only one stands twice.
            let doubled = flap[..].iter().take(2 - flap.len());
            let arc: Vec<u32> = points.into_iter().skip(1).map(|p| self.put(p)).collect();
            let chain = doubled.chain(&flap).chain(&arc).copied().collect();
            chains.push(chain);
        }
        let ring: Vec<Point> = chains.iter().map(|c| self.points[c[c.len() - 1] as usize]).collect();
        let middle = self.put(ring.iter().sum::<Point>() / ring.len() as f64);
        for chain in &mut chains {
            chain.push(middle);
            if side == 0 {
                chain.reverse();
            }
        }
        let face = self.face(number);
        for (n, a) in chains.iter().enumerate() {
            let b = &chains[(n + 1) % chains.len()];
            a.windows(2).zip(b.windows(2)).for_each(|(a, b)| self.zip(a, b, face));
        }
    }
}
