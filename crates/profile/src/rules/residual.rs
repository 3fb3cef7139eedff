//! How far a rule is from being kept: its equations, each in millimetres.

use super::Rule;
use super::element::Element;
use super::jet::{At, Jet};
use super::system::Local;

/// What of a rule depends on how the drawing lies, and stays so while it moves: no line jumps to the other side of another.
#[derive(Clone, Copy, Debug)]
pub struct Branch {
    /// On which side, or in which sense.
    side: f64,
    /// Which way each of two lines is taken.
    ways: [f64; 2],
    /// Where two lines go on from each other: whether each does with its end.
    meet: Option<[bool; 2]>,
    /// A length by which angles are measured, mm.
    arm: f64,
}

impl Branch {
    /// The length by which angles are measured, mm.
    pub fn arm(&self) -> f64 {
        self.arm.max(1e-12)
    }
}

/// Ends nearer than this meet, mm.
const MEET: f64 = 1e-6;

fn straight(element: Element, name: &str) -> Result<(At, At), String> {
    match element {
        Element::Straight { from, to } => Ok((from, to)),
        _ => Err(format!("{name} is not straight")),
    }
}

fn round(element: Element, name: &str) -> Result<(At, Jet), String> {
    match element {
        Element::Round { centre, radius, .. } => Ok((centre, radius)),
        _ => Err(format!("{name} is no circle and no arc")),
    }
}

fn ends(element: Element) -> Option<[At; 2]> {
    match element {
        Element::Straight { from, to } | Element::Free { from, to } => Some([from, to]),
        Element::Round { arc, .. } => arc.map(|a| [a.from, a.to]),
        Element::Oval { .. } => None,
    }
}

fn gap(a: At, b: At) -> f64 {
    (a.x.v - b.x.v).hypot(a.y.v - b.y.v)
}

fn sign(x: f64) -> f64 {
    if x < 0.0 { -1.0 } else { 1.0 }
}

/// How far a place is to the left of a straight line.
fn left_of((from, to): (At, At), place: At) -> Jet {
    let way = to - from;
    way.cross(place - from) * way.length().recip()
}

/// How a rule is meant where the drawing lies as it does; why it cannot be held.
pub fn branch(rule: &Rule, local: &mut Local<'_, '_>) -> Result<Branch, String> {
    let mut is = Branch { side: 1.0, ways: [1.0; 2], meet: None, arm: 1.0 };
    match rule {
        Rule::Level { between }
        | Rule::Upright { between }
        | Rule::Together { between }
        | Rule::Distance { between, .. } => {
            if between[0] == between[1] {
                return Err("its two places are the same".into());
            }
            for spot in between {
                local.spot(spot)?;
            }
        }
        Rule::Across { between: [a, b], .. } => is.side = sign(local.spot(b)?.x.v - local.spot(a)?.x.v),
        Rule::Rise { between: [a, b], .. } => is.side = sign(local.spot(b)?.y.v - local.spot(a)?.y.v),
        Rule::On { spot, line } => {
            local.spot(spot)?;
            if let Element::Free { .. } = local.element(line)? {
                return Err(format!("{line} is a free curve; a place is held on lines, arcs, circles and ellipses"));
            }
        }
        Rule::Off { spot, line, .. } => {
            let place = local.spot(spot)?;
            is.side = sign(left_of(straight(local.element(line)?, line)?, place).v);
        }
        Rule::InLine { lines } | Rule::Alongside { lines } | Rule::Square { lines } | Rule::Corner { lines, .. } => {
            let [a, b] = two(lines, local)?;
            let (a, b) = (straight(a, &lines[0])?, straight(b, &lines[1])?);
            is.arm = gap(a.0, a.1).min(gap(b.0, b.1));
            if let Rule::Corner { back, .. } = rule {
                is.ways = back.map(|back| if back { -1.0 } else { 1.0 });
            }
            is.side = sign((a.1 - a.0).cross(b.1 - b.0).v * is.ways[0] * is.ways[1]);
        }
        Rule::Tangent { lines } => {
            let [a, b] = two(lines, local)?;
            touching(a, b, &mut is)?;
        }
        Rule::SameSize { lines } => match two(lines, local)? {
            [Element::Straight { .. }, Element::Straight { .. }] | [Element::Round { .. }, Element::Round { .. }] => {}
            _ => return Err("of the same size are two straight lines, or two round ones".into()),
        },
        Rule::Mirrored { between: [a, b], line } => {
            if a == b {
                return Err("its two places are the same".into());
            }
            local.spot(a)?;
            local.spot(b)?;
            straight(local.element(line)?, line)?;
        }
        Rule::Fixed { spot, .. } => {
            local.spot(spot)?;
        }
        Rule::Length { of, .. } | Rule::Angle { of, .. } => {
            let (from, to) = straight(local.element(of)?, of)?;
            is.arm = gap(from, to);
        }
        Rule::Radius { of, .. } | Rule::Diameter { of, .. } => {
            round(local.element(of)?, of)?;
        }
    }
    Ok(is)
}

/// How two lines touch.
fn touching(a: Element, b: Element, is: &mut Branch) -> Result<(), String> {
    if let (Some(p), Some(q)) = (ends(a), ends(b)) {
        let pairs = [[false, false], [true, false], [false, true], [true, true]];
        let at = |[m, n]: [bool; 2]| gap(p[usize::from(m)], q[usize::from(n)]);
        is.meet = pairs.into_iter().find(|p| at(*p) <= MEET);
    }
    match (a, b) {
        (Element::Straight { from, to }, Element::Round { centre, .. })
        | (Element::Round { centre, .. }, Element::Straight { from, to }) => {
            is.side = sign(left_of((from, to), centre).v);
        }
        (Element::Round { centre: c, radius: r, .. }, Element::Round { centre: d, radius: s, .. }) => {
            let apart = gap(c, d);
            let outside = (apart - (r.v + s.v)).abs() <= (apart - (r.v - s.v).abs()).abs();
            is.side = if outside { 0.0 } else { sign(r.v - s.v) };
            is.arm = r.v.min(s.v).max(1e-6);
        }
        _ => return Err("of two lines that touch one is round, the other straight or round".into()),
    }
    Ok(())
}

fn two(lines: &[String; 2], local: &mut Local<'_, '_>) -> Result<[Element; 2], String> {
    if lines[0] == lines[1] {
        return Err("its two lines are the same".into());
    }
    Ok([local.element(&lines[0])?, local.element(&lines[1])?])
}

/// The equations of a rule: each is nought where it is kept.
pub fn rows(rule: &Rule, is: &Branch, local: &mut Local<'_, '_>) -> Result<Vec<Jet>, String> {
    let wanted = |x: f64| Jet::fixed(x);
    let of_line = |name: &String, local: &mut Local<'_, '_>| straight(local.element(name)?, name);
    Ok(match rule {
        Rule::Level { between: [a, b] } => vec![local.spot(b)?.y - local.spot(a)?.y],
        Rule::Upright { between: [a, b] } => vec![local.spot(b)?.x - local.spot(a)?.x],
        Rule::Together { between: [a, b] } => {
            let off = local.spot(b)? - local.spot(a)?;
            vec![off.x, off.y]
        }
        Rule::On { spot, line } => {
            let place = local.spot(spot)?;
            vec![match local.element(line)? {
                Element::Straight { from, to } => left_of((from, to), place),
                Element::Round { centre, radius, .. } => (place - centre).length() - radius,
                Element::Oval { centre, half, turned } => {
                    let (c, s) = (wanted(turned.cos()), wanted(-turned.sin()));
                    let off = (place - centre).turned(c, s);
                    let unit = At { x: off.x * half[0].recip(), y: off.y * half[1].recip() };
                    (unit.length() - wanted(1.0)) * half[0].v.min(half[1].v)
                }
                Element::Free { .. } => return Err(format!("{line} is a free curve")),
            }]
        }
        Rule::InLine { lines } => {
            let (a, b) = (of_line(&lines[0], local)?, of_line(&lines[1], local)?);
            vec![left_of(a, b.0), left_of(a, b.1)]
        }
        Rule::Alongside { lines } => {
            let (a, b) = (of_line(&lines[0], local)?, of_line(&lines[1], local)?);
            let (u, v) = (a.1 - a.0, b.1 - b.0);
            vec![u.cross(v) * (u.length() * v.length()).recip() * is.arm]
        }
        Rule::Square { lines } => {
            let (a, b) = (of_line(&lines[0], local)?, of_line(&lines[1], local)?);
            let (u, v) = (a.1 - a.0, b.1 - b.0);
            vec![u.dot(v) * (u.length() * v.length()).recip() * is.arm]
        }
        Rule::Corner { lines, degrees, .. } => {
            let (a, b) = (of_line(&lines[0], local)?, of_line(&lines[1], local)?);
            let (u, v) = ((a.1 - a.0) * is.ways[0], (b.1 - b.0) * is.ways[1]);
            vec![turn_from(u, v, degrees.to_radians() * is.side) * (is.side * is.arm)]
        }
        Rule::Angle { of, degrees } => {
            let (from, to) = of_line(of, local)?;
            vec![turn_from(At::fixed([1.0, 0.0]), to - from, degrees.to_radians()) * is.arm]
        }
        Rule::Tangent { lines } => vec![tangent(two(lines, local)?, is)?],
        Rule::SameSize { lines } => match two(lines, local)? {
            [Element::Straight { from: a, to: b }, Element::Straight { from: c, to: d }] => {
                vec![(b - a).length() - (d - c).length()]
            }
            [Element::Round { radius: r, .. }, Element::Round { radius: s, .. }] => vec![r - s],
            _ => return Err("they are not of one kind".into()),
        },
        Rule::Mirrored { between: [a, b], line } => {
            let (p, q) = (local.spot(a)?, local.spot(b)?);
            let (from, to) = of_line(line, local)?;
            let way = to - from;
            vec![left_of((from, to), (p + q) * 0.5), way.dot(q - p) * way.length().recip()]
        }
        Rule::Fixed { spot, at } => {
            let off = local.spot(spot)? - At::fixed(*at);
            vec![off.x, off.y]
        }
        Rule::Length { of, mm } => {
            let (from, to) = of_line(of, local)?;
            vec![(to - from).length() - wanted(*mm)]
        }
        Rule::Distance { between: [a, b], mm } => vec![(local.spot(b)? - local.spot(a)?).length() - wanted(*mm)],
        Rule::Across { between: [a, b], mm } => vec![(local.spot(b)?.x - local.spot(a)?.x) * is.side - wanted(*mm)],
        Rule::Rise { between: [a, b], mm } => vec![(local.spot(b)?.y - local.spot(a)?.y) * is.side - wanted(*mm)],
        Rule::Off { spot, line, mm } => {
            let place = local.spot(spot)?;
            vec![left_of(of_line(line, local)?, place) * is.side - wanted(*mm)]
        }
        Rule::Radius { of, mm } => vec![round(local.element(of)?, of)?.1 - wanted(*mm)],
        Rule::Diameter { of, mm } => vec![round(local.element(of)?, of)?.1 - wanted(*mm * 0.5)],
    })
}

/// By how much more than an angle one way turns to another.
fn turn_from(u: At, v: At, angle: f64) -> Jet {
    let u = u.turned(Jet::fixed(angle.cos()), Jet::fixed(angle.sin()));
    u.cross(v).atan2(u.dot(v))
}

fn tangent(lines: [Element; 2], is: &Branch) -> Result<Jet, String> {
    let end = |n: usize| {
        let own = ends(lines[n])?;
        is.meet.map(|meet| own[usize::from(meet[n])])
    };
    Ok(match lines {
        [Element::Straight { from, to }, Element::Round { centre, radius, .. }] => {
            line_to_round((from, to), (centre, radius), end(0), is)
        }
        [Element::Round { centre, radius, .. }, Element::Straight { from, to }] => {
            line_to_round((from, to), (centre, radius), end(1), is)
        }
        [Element::Round { centre: c, radius: r, .. }, Element::Round { centre: d, radius: s, .. }] => match end(0) {
            // Where they meet both middles lie on one line with the place.
            Some(at) => (at - c).cross(at - d) * (1.0 / (2.0 * is.arm)),
            None if is.side == 0.0 => (c - d).length() - (r + s),
            None => (c - d).length() - (r - s) * is.side,
        },
        _ => return Err("they cannot touch".into()),
    })
}

fn line_to_round(line: (At, At), (centre, radius): (At, Jet), meet: Option<At>, is: &Branch) -> Jet {
    let way = line.1 - line.0;
    match meet {
        // Where they meet the radius stands square on the line: their distance would have a double root there.
        Some(at) => (at - centre).dot(way) * way.length().recip(),
        None => left_of(line, centre) * is.side - radius,
    }
}
