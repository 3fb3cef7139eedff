//! Cuts as drawings: SVG (with hatching) and DXF (ASCII, the entities of release 12, which everything reads).

use std::fmt::Write;

/// Closed and open chains of one part in a plane, mm: x to the right, y up.
#[derive(Clone, Debug, PartialEq)]
pub struct DrawnPart {
    /// The part's name; a layer in DXF.
    pub name: String,
    /// Its chains, with whether each closes; a closed one does not repeat its first point.
    pub chains: Vec<(Vec<[f64; 2]>, bool)>,
}

/// The least and greatest coordinates of all parts; of an empty drawing a square millimetre.
fn bounds(parts: &[DrawnPart]) -> [f64; 4] {
    let all = parts.iter().flat_map(|p| &p.chains).flat_map(|c| &c.0);
    let start = [f64::INFINITY, f64::INFINITY, f64::NEG_INFINITY, f64::NEG_INFINITY];
    let [a, b, c, d] = all.fold(start, |[a, b, c, d], p| [a.min(p[0]), b.min(p[1]), c.max(p[0]), d.max(p[1])]);
    if a <= c { [a, b, c, d] } else { [0.0, 0.0, 1.0, 1.0] }
}

/// Lines to the micrometre.
fn number(x: f64) -> String {
    let text = format!("{x:.4}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text == "-0" { "0".into() } else { text.into() }
}

/// Text as it may stand in XML.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;").replace('"', "&quot;")
}

/// A drawing in its true size, hatched part by part.
pub fn drawing_svg(title: &str, parts: &[DrawnPart]) -> String {
    /// Room round the drawing, and between hatches, as shares of it.
    const MARGIN: f64 = 0.04;
    const HATCH: f64 = 0.012;
    let [left, low, right, high] = bounds(parts);
    let size = (right - left).max(high - low);
    let margin = size * MARGIN;
    let (width, height) = (right - left + 2.0 * margin, high - low + 2.0 * margin);
    let step = number(size * HATCH);
    let line = number(size * 0.002);
    let mut svg = format!(
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"{w}mm\" height=\"{h}mm\" \
         viewBox=\"0 0 {w} {h}\">\n<title>{}</title>\n<defs>\n",
        escaped(title),
        w = number(width),
        h = number(height),
    );
    for (n, _) in parts.iter().enumerate() {
        let turn = [45, 135, 20, 70, 110, 160][n % 6];
        let _ = writeln!(
            svg,
            "<pattern id=\"hatch{n}\" width=\"{step}\" height=\"{step}\" patternUnits=\"userSpaceOnUse\" \
             patternTransform=\"rotate({turn})\"><path d=\"M0 0V{step}\" stroke=\"#1f2b33\" stroke-width=\"{line}\"/></pattern>"
        );
    }
    svg.push_str("</defs>\n");
    for (n, part) in parts.iter().enumerate() {
        let path = |closed: bool| {
            let mut d = String::new();
            for (points, _) in part.chains.iter().filter(|c| c.1 == closed) {
                for (k, p) in points.iter().enumerate() {
                    let (x, y) = (number(p[0] - left + margin), number(high - p[1] + margin));
                    let _ = write!(d, "{}{x} {y}", if k == 0 { "M" } else { "L" });
                }
                if closed {
                    d.push('Z');
                }
            }
            d
        };
        let _ = writeln!(
            svg,
            "<g stroke=\"#1f2b33\" stroke-width=\"{line}\"><title>{}</title>\n<path class=\"cut\" fill=\"url(#hatch{n})\" \
             fill-rule=\"evenodd\" d=\"{}\"/>\n<path fill=\"none\" d=\"{}\"/>\n</g>",
            escaped(&part.name),
            path(true),
            path(false)
        );
    }
    svg + "</svg>\n"
}

/// A drawing in millimetres, a layer for each part.
pub fn drawing_dxf(parts: &[DrawnPart]) -> String {
    let mut dxf = String::from("0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1009\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n");
    dxf.push_str("0\nSECTION\n2\nENTITIES\n");
    for (n, part) in parts.iter().enumerate() {
        // Layers of release 12: capital letters, figures, - and _.
        let plain = |c: char| if c.is_ascii_alphanumeric() { c.to_ascii_uppercase() } else { '_' };
        let plain: String = part.name.chars().map(plain).take(24).collect();
        let layer = format!("{}_{plain}", n + 1);
        for (points, closed) in &part.chains {
            let _ = write!(dxf, "0\nPOLYLINE\n8\n{layer}\n66\n1\n70\n{}\n", u8::from(*closed));
            for p in points {
                let _ = write!(dxf, "0\nVERTEX\n8\n{layer}\n10\n{}\n20\n{}\n", number(p[0]), number(p[1]));
            }
            let _ = write!(dxf, "0\nSEQEND\n8\n{layer}\n");
        }
    }
    dxf + "0\nENDSEC\n0\nEOF\n"
}
