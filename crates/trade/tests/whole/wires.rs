//! Lines in space at every size, and lines that are none.

use nimbet_kernel::{Point, Progress};
use nimbet_trade::shape::part_of_lines;
use nimbet_trade::wire::{Strand, Wire, is_wire};

/// A run of three stretches that miss each other by a millionth of its size, or half of what ends may miss, and a stretch a hundredth beside it.
fn run(size: f64) -> Vec<Strand> {
    let at = |p: [f64; 3]| p.map(|x| x * size);
    let miss = f64::min(1e-6, 2.5e-4 / size);
    vec![
        Strand::Straight([at([0.0, 0.0, 0.0]), at([1.0, 0.0, 0.0])]),
        Strand::Round {
            centre: at([1.0, 0.5, miss]),
            u: at([0.0, -0.5, 0.0]),
            v: at([0.5, 0.0, 0.0]),
            turn: std::f64::consts::PI,
        },
        Strand::Free([[1.0, 1.0, -miss], [0.5, 1.0, 0.0], [0.0, 1.0, 0.5], [0.0, 1.0, 1.0]].map(at)),
        Strand::Straight([at([0.0, 0.01, 0.0]), at([0.0, 0.4, 0.3])]),
    ]
}

#[test]
fn lines_hang_together_at_every_size() {
    let quiet = Progress::unwatched();
    for size in [1e-4, 1e-2, 1.0, 1e3, 1e7] {
        let made = part_of_lines("run", &run(size), &quiet).unwrap();
        let wire = Wire::of(&made).unwrap();
        let count: Vec<usize> = wire.chains.iter().map(|c| c.strands.len()).collect();
        assert_eq!(count, [3, 1], "{size} mm");
        let reach = wire.bounds().size() / size;
        assert!((reach - Point::new(1.5, 1.0, 1.0)).length() < 1e-5, "{size} mm: {reach}");
        // A square is drawn in its plane, or a wire where it is too small or too large to be drawn.
        let corner =
            |k: usize| [[0.0, 0.0, 0.0], [1.0, 0.0, 1.0], [1.0, 1.0, 1.0], [0.0, 1.0, 0.0]][k % 4].map(|x| x * size);
        let square: Vec<Strand> = (0..4).map(|k| Strand::Straight([corner(k), corner(k + 1)])).collect();
        let made = part_of_lines("square", &square, &quiet).unwrap();
        let drawable = (1e-2..1e4).contains(&size);
        assert!(made.drawn().is_some() && (!is_wire(&made) || !drawable), "{size} mm");
    }
}

#[test]
fn lines_that_are_nowhere_are_refused() {
    let quiet = Progress::unwatched();
    let nowhere = [Strand::Straight([[0.0; 3], [f64::NAN, 0.0, 0.0]]), Strand::Free([[f64::INFINITY; 3]; 4])];
    for strands in [&[][..], &nowhere[..1], &nowhere[1..]] {
        let refused = part_of_lines("none", strands, &quiet).unwrap_err().to_string();
        assert!(refused.contains("no lines"), "{refused}");
    }
    // So far out that a place along it is none: refused or kept, and nothing breaks.
    let far = [Strand::Free([[1e308, 0.0, 0.0], [-1e308, 1e308, 0.0], [1e308, -1e308, 1e308], [-1e308; 3]])];
    let _ = part_of_lines("far", &far, &quiet);
    // All in one place is no line either.
    let point = [Strand::Straight([[3.0; 3]; 2])];
    assert!(part_of_lines("point", &point, &quiet).is_err());
}
