//! Solves sparse symmetric systems by a Cholesky factor, with the unknowns ordered by nested dissection (George 1973).

use nalgebra_sparse::factorization::CscCholesky;
use nalgebra_sparse::{CooMatrix, CscMatrix};

use crate::{Aabb, Point};

/// So few unknowns are not cut further.
const SMALL: usize = 24;

/// The factor of a matrix whose unknowns have places.
pub struct Factor {
    /// `order[k]` is the unknown in place `k` of the factored matrix.
    order: Vec<usize>,
    /// Lower triangular.
    lower: CscMatrix<f64>,
}

impl Factor {
    /// Factors the sum of the entries; `None` when the matrix is not positive definite.
    pub fn new(places: &[Point], entries: &[(usize, usize, f64)]) -> Option<Self> {
        let n = places.len();
        let mut beside = vec![Vec::new(); n];
        for &(i, j, _) in entries {
            beside[i].push(j);
        }
        for b in &mut beside {
            b.sort_unstable();
            b.dedup();
        }
        let mut order = Vec::with_capacity(n);
        dissect(places, &beside, (0..n).collect(), &mut vec![false; n], &mut order);
        let mut at = vec![0; n];
        for (k, &i) in order.iter().enumerate() {
            at[i] = k;
        }
        let mut sum = CooMatrix::new(n, n);
        for &(i, j, value) in entries {
            sum.push(at[i], at[j], value);
        }
        let lower = CscCholesky::factor(&CscMatrix::from(&sum)).ok()?.take_l();
        Some(Self { order, lower })
    }

    /// What solves the system for a right side.
    pub fn solve(&self, right: &[Point]) -> Vec<Point> {
        let mut x: Vec<Point> = self.order.iter().map(|&i| right[i]).collect();
        // The first entry of each column is its diagonal.
        let column = |k: usize| {
            let (from, to) = (self.lower.col_offsets()[k], self.lower.col_offsets()[k + 1]);
            (&self.lower.row_indices()[from + 1..to], &self.lower.values()[from + 1..to], self.lower.values()[from])
        };
        for k in 0..x.len() {
            let (rows, values, diagonal) = column(k);
            x[k] /= diagonal;
            let own = x[k];
            for (&i, &value) in rows.iter().zip(values) {
                x[i] -= own * value;
            }
        }
        for k in (0..x.len()).rev() {
            let (rows, values, diagonal) = column(k);
            let sum: Point = rows.iter().zip(values).map(|(&i, &value)| x[i] * value).sum();
            x[k] = (x[k] - sum) / diagonal;
        }
        let mut out = vec![Point::ZERO; right.len()];
        for (k, &i) in self.order.iter().enumerate() {
            out[i] = x[k];
        }
        out
    }
}

/// Orders unknowns so that those that part the others come last. `left` is scratch.
fn dissect(places: &[Point], beside: &[Vec<usize>], mut ids: Vec<usize>, left: &mut Vec<bool>, order: &mut Vec<usize>) {
    let bounds = Aabb::of(ids.iter().map(|&i| places[i]));
    let size = bounds.max - bounds.min;
    if ids.len() <= SMALL || size.max_element() <= 0.0 {
        order.append(&mut ids);
        return;
    }
    let axis = (0..3).max_by(|&a, &b| size[a].total_cmp(&size[b])).unwrap_or(0);
    ids.sort_by(|&i, &j| places[i][axis].total_cmp(&places[j][axis]).then(i.cmp(&j)));
    let rest = ids.split_off(ids.len() / 2);
    for &i in &ids {
        left[i] = true;
    }
    let (parting, right): (Vec<usize>, Vec<usize>) =
        rest.into_iter().partition(|&i| beside[i].iter().any(|&j| left[j]));
    for &i in &ids {
        left[i] = false;
    }
    if parting.len() > right.len() + ids.len() {
        order.extend(ids.into_iter().chain(right).chain(parting));
        return;
    }
    dissect(places, beside, ids, left, order);
    dissect(places, beside, right, left, order);
    order.extend(parting);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_square_of_springs_is_solved() {
        let n = 20;
        let places: Vec<Point> = (0..n * n).map(|k| Point::new((k % n) as f64, (k / n) as f64, 0.0)).collect();
        let mut entries = Vec::new();
        for (i, p) in places.iter().enumerate() {
            entries.push((i, i, 4.1));
            for (j, q) in places.iter().enumerate() {
                if p.distance_squared(*q) == 1.0 {
                    entries.push((i, j, -1.0));
                }
            }
        }
        let wanted: Vec<Point> = places.iter().map(|p| Point::new(p.x, p.y * p.x, 1.0)).collect();
        let mut right = vec![Point::ZERO; places.len()];
        for &(i, j, value) in &entries {
            right[i] += wanted[j] * value;
        }
        let found = Factor::new(&places, &entries).unwrap().solve(&right);
        assert!(found.iter().zip(&wanted).all(|(f, w)| f.distance(*w) < 1e-9));
        assert!(Factor::new(&places[..2], &[(0, 0, 1.0), (1, 1, -1.0)]).is_none());
    }
}
