//! Inside and outside on a grid: as the body says, block by block or point by point, and so that its skin is a surface.

use super::*;

/// The faces and the long diagonals of a cell, by its corners.
const FACES: [[u8; 4]; 6] = [[0, 1, 3, 2], [4, 5, 7, 6], [0, 1, 5, 4], [2, 3, 7, 6], [0, 2, 6, 4], [1, 3, 7, 5]];

/// Whether within a cell two points of the inside, or two of the outside, touch only across a face or the cell.
fn touches(cell: u8) -> bool {
    let has = |k: u8| cell >> k & 1 == 1;
    let crossed = |f: &[u8; 4]| has(f[0]) == has(f[2]) && has(f[1]) == has(f[3]) && has(f[0]) != has(f[1]);
    let lonely = |k: u8| {
        let pair = 1 << k | 1 << (7 - k);
        cell == pair || cell == !pair
    };
    FACES.iter().any(crossed) || (0..4).any(lonely)
}

#[test]
fn every_cell_is_composed_by_adding_to_its_inside() {
    for cell in 0..=255u8 {
        assert_eq!(critical(cell) != 0, touches(cell), "{cell:08b}");
        let mut now = cell;
        for _ in 0..8 {
            let more = critical(now);
            assert_eq!(more & now, 0, "{cell:08b}: what is inside is not added again");
            now |= more;
        }
        assert!(!touches(now), "{cell:08b} became {now:08b}");
        // What is in order stays as it is.
        assert!(touches(cell) || now == cell);
    }
}

#[test]
fn a_composed_grid_keeps_its_inside_and_has_no_cell_that_touches() {
    let bounds = Aabb { min: Point::ZERO, max: Point::splat(9.0) };
    for seed in 0..40u64 {
        let mut grid = Grid::empty(&bounds, 1.0);
        // Any pattern, dense or thin.
        let mut state = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
        let mut next = || {
            state ^= state << 13;
            state ^= state >> 7;
            state ^= state << 17;
            state % 100
        };
        for inside in &mut grid.inside {
            *inside = next() < 10 + seed * 2;
        }
        let before = grid.inside.clone();
        grid.compose(&Progress::unwatched()).unwrap();
        assert!(before.iter().zip(&grid.inside).all(|(was, is)| !was || *is));
        let cells = grid.points.map(|p| p - 1);
        let all = (0..cells[2]).flat_map(|z| (0..cells[1]).flat_map(move |y| (0..cells[0]).map(move |x| [x, y, z])));
        assert!(all.into_iter().all(|c| !touches(grid.cell(c))), "seed {seed}");
        // Once more nothing changes.
        let once = grid.inside.clone();
        grid.compose(&Progress::unwatched()).unwrap();
        assert_eq!(once, grid.inside);
    }
}

#[test]
fn a_ball_and_its_hollow_are_told_point_by_point() {
    let (radius, step) = (10.0, 0.7);
    let ball = crate::shapes::ball(radius, 24);
    let bounds = Aabb::of(ball.points().iter().copied());
    let quiet = Progress::unwatched();
    let grid = Grid::sample(&ball, &bounds, step, &Winding::new(&ball), &quiet).unwrap();
    let field = |p: Point| p.length() - radius;
    let below = Grid::below(&bounds, step, &field, &quiet).unwrap();
    // Facets lie so much within the ball.
    let sag = radius * (1.0 - (std::f64::consts::PI / 48.0).cos()) * 2.5;
    let mut held = 0;
    let [nx, ny, nz] = grid.points;
    for at in (0..nz).flat_map(|z| (0..ny).flat_map(move |y| (0..nx).map(move |x| [x, y, z]))) {
        let off = field(grid.place(at));
        assert_eq!(below.is_inside(at), off < 0.0, "{at:?}");
        if off > 0.0 || off < -sag {
            assert_eq!(grid.is_inside(at), off < 0.0, "{at:?} {off}");
        }
        held += usize::from(grid.is_inside(at));
        // Where it was kept, the winding number says the same.
        if let Some(winding) = grid.winding(at) {
            assert_eq!(winding >= 0.5, grid.is_inside(at));
        }
    }
    let volume = held as f64 * step.powi(3);
    let exact = crate::measure::measure(&ball).volume;
    assert!((volume / exact - 1.0).abs() < 0.02, "{volume} {exact}");
    // Beyond the grid is outside.
    assert!(!grid.is_inside([nx, 0, 0]) && !grid.is_inside([0, usize::MAX, 0]));
}

#[test]
fn who_stops_gets_no_grid() {
    let ball = crate::shapes::ball(10.0, 24);
    let bounds = Aabb::of(ball.points().iter().copied());
    let stopped = Progress::unwatched();
    stopped.cancel();
    assert!(Grid::sample(&ball, &bounds, 0.5, &Winding::new(&ball), &stopped).is_err());
    assert!(Grid::below(&bounds, 0.5, &|p| p.length() - 10.0, &stopped).is_err());
}
