//! Drawing by hand: what clicks, figures and the pointer make.

use nimbet_kernel::Progress;
use nimbet_profile::catch::{Pointer, catch, named};
use nimbet_profile::drawing::{Leg, Shape};
use nimbet_profile::hand::{Click, Drawn, Pen, Typed, drawn};
use nimbet_profile::text::read;
use nimbet_profile::{Flat, Network};

fn by(pen: Pen, clicks: &[[f64; 2]], typed: &[(&str, f64)], at: [f64; 2]) -> Drawn {
    let clicks: Vec<Click> = clicks.iter().map(|at| Click { at: *at, ..Click::default() }).collect();
    let typed: Typed = typed.iter().map(|(name, x)| ((*name).to_owned(), *x)).collect();
    drawn(pen, &clicks, false, &typed, Flat::from(at))
}

fn figures(drawn: &Drawn) -> Vec<(&str, f64, bool)> {
    drawn.figures.iter().map(|f| (f.name.as_str(), f.value, f.typed)).collect()
}

#[test]
fn pens_draw_what_is_clicked_unless_a_figure_was_typed() {
    let made = by(Pen::Circle, &[[1.0, 2.0]], &[], [4.0, 6.0]);
    assert_eq!(made.shape, Some(Shape::Circle { centre: [1.0, 2.0], diameter: 10.0 }));
    assert!(made.last);
    let made = by(Pen::Circle, &[[1.0, 2.0]], &[("diameter", 6.6)], [4.0, 6.0]);
    assert_eq!(
        (figures(&made), made.shape.clone()),
        (vec![("diameter", 6.6, true)], Some(Shape::Circle { centre: [1.0, 2.0], diameter: 6.6 }))
    );
    // A frame grows from its first corner to the side the pointer is on.
    let made = by(Pen::Frame, &[[10.0, 10.0]], &[("width", 40.0), ("radius", 3.0)], [5.0, 30.0]);
    assert_eq!(made.shape, Some(Shape::Frame { centre: [-10.0, 20.0], size: [40.0, 20.0], radius: 3.0, turned: 0.0 }));
    let made = by(Pen::Slot, &[[0.0, 0.0]], &[("length", 20.0), ("angle", 90.0), ("width", 6.0)], [3.0, 1.0]);
    assert_eq!(made.shape, Some(Shape::Slot { from: [0.0, 0.0], to: [0.0, 20.0], width: 6.0 }));
    // Nothing is drawn before the first click.
    assert_eq!(by(Pen::Frame, &[], &[], [5.0, 30.0]).shape, None);
}

#[test]
fn chains_go_on_and_close_where_they_began() {
    let made = by(Pen::Chain, &[[0.0, 0.0], [10.0, 0.0]], &[("length", 5.0)], [10.0, 3.0]);
    assert_eq!((made.at, made.last), (Flat::new(10.0, 5.0), false));
    let made = by(Pen::Chain, &[[0.0, 0.0], [10.0, 0.0], [10.0, 5.0]], &[], [0.0, 0.0]);
    let legs = vec![Leg { to: [10.0, 0.0], bulge: 0.0 }, Leg { to: [10.0, 5.0], bulge: 0.0 }];
    assert_eq!((made.last, made.shape), (true, Some(Shape::Chain { from: [0.0, 0.0], legs, closed: true })));
    // An arc goes on in the direction of the leg before, and takes radius and angle.
    let clicks = [[0.0, 0.0], [10.0, 0.0]].map(|at| Click { at, ..Click::default() });
    let typed: Typed = [("radius".to_owned(), 4.0), ("angle".to_owned(), 180.0)].into();
    let made = drawn(Pen::Chain, &clicks, true, &typed, Flat::new(11.0, 2.0));
    assert!(made.at.distance(Flat::new(10.0, 8.0)) < 1e-12, "{}", made.at);
    let Some(Shape::Chain { legs, .. }) = made.shape else { panic!("a chain") };
    assert!((legs[1].bulge - 1.0).abs() < 1e-12);
    // Without figures it goes where the pointer is, still smoothly.
    let made = drawn(Pen::Chain, &clicks, true, &Typed::new(), Flat::new(13.0, -3.0));
    let Some(Shape::Chain { legs, .. }) = made.shape else { panic!("a chain") };
    assert!((legs[1].bulge + (std::f64::consts::PI / 8.0).tan()).abs() < 1e-12);
}

#[test]
fn an_arc_takes_its_radius_on_the_side_of_the_pointer() {
    let ends = [[-3.0, 0.0], [3.0, 0.0]];
    for (at, via) in [([0.0, 0.5], [0.0, 1.0]), ([0.0, -0.5], [0.0, -1.0]), ([0.0, 7.0], [0.0, 9.0])] {
        let made = by(Pen::Arc, &ends, &[("radius", 5.0)], at);
        assert_eq!(made.shape, Some(Shape::Arc { from: ends[0], via, to: ends[1] }));
    }
}

#[test]
fn the_pointer_catches_what_is_there() {
    let drawing =
        read("a line from 0, 0 to 40, 0\nb circle at 20, 20 diameter 10\nc line from 30, -5 to 30, 9").unwrap();
    let network = Network::new(drawing.curves().unwrap(), &Progress::unwatched()).unwrap();
    let names = named(&network, &|_| false);
    let at = |at: [f64; 2], from: Option<[f64; 2]>| {
        let pointer = Pointer { at: Flat::from(at), reach: 1.0, from: from.map(Flat::from), grid: 0.5 };
        let caught = catch(&network, &names, &pointer, &|_| false);
        (caught.at.to_array(), caught.text)
    };
    let told = |p: [f64; 2], text: &str| (p, text.to_owned());
    assert_eq!(at([39.5, 0.3], None), told([40.0, 0.0], "end of a"));
    assert_eq!(at([20.2, 0.3], None), told([20.0, 0.0], "middle of a"));
    assert_eq!(at([19.6, 20.5], None), told([20.0, 20.0], "centre of b"));
    assert_eq!(at([30.4, 0.4], None), told([30.0, 0.0], "crossing of a and c"));
    assert_eq!(at([7.0, 0.4], None), told([7.0, 0.0], "on a"));
    // From a place: square to a line, and touching a circle.
    assert_eq!(at([7.3, 0.4], Some([7.5, 9.0])), told([7.5, 0.0], "square to a"));
    let (touched, text) = at([24.1, 17.9], Some([20.0, 10.0]));
    assert_eq!(text, "tangent to b");
    let (spoke, line) = (Flat::from(touched) - Flat::new(20.0, 20.0), Flat::from(touched) - Flat::new(20.0, 10.0));
    assert!((spoke.length() - 5.0).abs() < 1e-12 && spoke.dot(line).abs() < 1e-9);
    // Free: level with something, else the grid.
    assert_eq!(at([50.2, 20.3], None), told([50.0, 20.0], "level with centre of b"));
    assert_eq!(at([50.2, 33.3], Some([50.0, 10.0])), told([50.0, 33.5], "upright"));
    assert_eq!(at([53.24, 33.3], None), told([53.0, 33.5], ""));
}
