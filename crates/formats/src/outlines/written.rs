//! Profiles written as SVG and DXF, with true arcs.

use std::f64::consts::TAU;
use std::fmt::Write as _;

use nimbet_profile::fit::cubics_of;
use nimbet_profile::{Curve, Flat, Form, Span};

/// A number as short as it can be told exactly enough: to a millionth of a millimetre.
fn number(x: f64) -> String {
    let text = format!("{x:.6}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".to_owned() } else { text.to_owned() }
}

fn pair(p: Flat) -> String {
    format!("{} {}", number(p.x), number(p.y))
}

/// Curves as SVG, true to size, y up as drawn.
pub fn profile_svg(name: &str, curves: &[Curve]) -> String {
    let ends =
        curves.iter().flat_map(|c| &c.spans).flat_map(|s| [s.at(0.0), s.at(0.25), s.at(0.5), s.at(0.75), s.at(1.0)]);
    let (least, most) = ends.fold((Flat::INFINITY, Flat::NEG_INFINITY), |(a, b), p| (a.min(p), b.max(p)));
    let (least, most) = if curves.is_empty() { (Flat::ZERO, Flat::ONE) } else { (least, most) };
    // Room for the width of lines, and for what bends out between the places looked at.
    let margin = 1.0 + (most - least).max_element() * 0.02;
    let (size, top) = (most - least + Flat::splat(2.0 * margin), most.y + margin);
    let at = |p: Flat| pair(Flat::new(p.x - least.x + margin, top - p.y));
    let mut svg = String::from("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
    let (w, h) = (number(size.x), number(size.y));
    let _ = writeln!(
        svg,
        "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}mm\" height=\"{h}mm\" viewBox=\"0 0 {w} {h}\">"
    );
    let escaped = name.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;");
    let _ = writeln!(svg, "<title>{escaped}</title>");
    svg.push_str("<g fill=\"none\" stroke=\"#000\" stroke-width=\"0.2\">\n");
    let mut last: Option<Flat> = None;
    let mut open = false;
    let drawn = |c: &Curve| -> Vec<Step> {
        match c.spans[0].form {
            Form::Line { .. } | Form::Arc { .. } | Form::Ellipse { .. } => {
                c.spans.iter().map(|s| Step::Plain(*s)).collect()
            }
            _ => cubics_of(&c.spans).into_iter().map(Step::Cubic).collect(),
        }
    };
    for step in curves.iter().flat_map(drawn) {
        let (from, to) = match &step {
            Step::Plain(span) => (span.from(), span.to()),
            Step::Cubic(poles) => (poles[0], poles[3]),
        };
        let goes_on = last.is_some_and(|p| p.distance(from) <= 1e-6);
        if !goes_on {
            svg.push_str(if open { "\"/>\n" } else { "" });
            let _ = write!(svg, "<path d=\"M{}", at(from));
            open = true;
        }
        match step {
            Step::Cubic([_, p, q, _]) => {
                let _ = write!(svg, "C{} {} {}", at(p), at(q), at(to));
            }
            Step::Plain(Span { form: Form::Line { .. }, .. }) => {
                let _ = write!(svg, "L{}", at(to));
            }
            Step::Plain(span) => {
                let (rx, ry, turn) = axes(&span.form);
                let right = span.slopes(0.0).0.perp_dot(span.slopes(0.5).0) < 0.0;
                // Seen with y down it turns the other way.
                let _ =
                    write!(svg, "A{} {} {} 0 {} {}", number(rx), number(ry), number(-turn), u8::from(right), at(to));
            }
        }
        last = Some(to);
    }
    svg.push_str(if open { "\"/>\n" } else { "" });
    svg + "</g>\n</svg>\n"
}

/// What a path is written by.
enum Step {
    Plain(Span),
    Cubic([Flat; 4]),
}

/// Half axes, and how far the first is turned, degrees.
fn axes(form: &Form) -> (f64, f64, f64) {
    match form {
        Form::Arc { radius, .. } => (*radius, *radius, 0.0),
        Form::Ellipse { u, v, .. } => (u.length(), v.length(), u.to_angle().to_degrees()),
        _ => (0.0, 0.0, 0.0),
    }
}

/// Curves as DXF (text, release 2000), millimetres.
pub fn profile_dxf(curves: &[Curve]) -> String {
    let mut dxf = String::from("0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1015\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n");
    dxf.push_str("0\nSECTION\n2\nENTITIES\n");
    let mut handle = 0x100;
    let mut begin = |dxf: &mut String, kind: &str, class: &str| {
        handle += 1;
        let _ = write!(dxf, "0\n{kind}\n5\n{handle:X}\n100\nAcDbEntity\n8\n0\n100\n{class}\n");
    };
    let put = |dxf: &mut String, code: i32, p: Flat| {
        let _ = write!(dxf, "{code}\n{}\n{}\n{}\n", number(p.x), code + 10, number(p.y));
    };
    for curve in curves {
        let (first, last) = (curve.spans[0], curve.spans[curve.spans.len() - 1]);
        match first.form {
            Form::Line { from, to } => {
                begin(&mut dxf, "LINE", "AcDbLine");
                put(&mut dxf, 10, from);
                put(&mut dxf, 11, to);
            }
            Form::Arc { centre, radius } => {
                let whole = (last.hi - first.lo).abs() > TAU - 1e-9;
                begin(&mut dxf, if whole { "CIRCLE" } else { "ARC" }, "AcDbCircle");
                put(&mut dxf, 10, centre);
                let _ = write!(dxf, "40\n{}\n", number(radius));
                if !whole {
                    let (from, to) = (first.lo.min(last.hi), first.lo.max(last.hi));
                    let turn = |a: f64| number(a.to_degrees().rem_euclid(360.0));
                    let _ = write!(dxf, "100\nAcDbArc\n50\n{}\n51\n{}\n", turn(from), turn(to));
                }
            }
            Form::Ellipse { centre, u, v } => {
                begin(&mut dxf, "ELLIPSE", "AcDbEllipse");
                put(&mut dxf, 10, centre);
                // The longer axis first; the other stands to its left.
                let (long, short, shift) = if u.length() >= v.length() { (u, v, 0.0) } else { (v, u, TAU * 0.25) };
                put(&mut dxf, 11, long);
                let mirrored = u.perp_dot(v) < 0.0;
                let own = |t: f64| if mirrored { -(t - shift) } else { t - shift };
                let (a, b) = (own(first.lo), own(last.hi));
                let (from, to) = (a.min(b), a.max(b));
                let _ = write!(dxf, "40\n{}\n41\n{from}\n42\n{to}\n", short.length() / long.length());
            }
            _ => {
                let poles: Vec<[Flat; 4]> = cubics_of(&curve.spans);
                begin(&mut dxf, "SPLINE", "AcDbSpline");
                let _ = write!(dxf, "70\n8\n71\n3\n72\n{}\n73\n{}\n74\n0\n", 3 * poles.len() + 5, 3 * poles.len() + 1);
                for knot in 0..=poles.len() {
                    let times = if knot == 0 || knot == poles.len() { 4 } else { 3 };
                    (0..times).for_each(|_| {
                        let _ = write!(dxf, "40\n{knot}\n");
                    });
                }
                put(&mut dxf, 10, poles[0][0]);
                poles.iter().flat_map(|p| &p[1..]).for_each(|p| put(&mut dxf, 10, *p));
            }
        }
    }
    dxf + "0\nENDSEC\n0\nEOF\n"
}
