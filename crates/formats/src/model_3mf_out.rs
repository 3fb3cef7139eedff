//! Writes 3MF (ISO/IEC 25422, core specification): bodies with their names and colours; those that are moved copies of an earlier one as
//! further uses of its object.

use std::io::{Seek, Write};

use nimbet_kernel::{Mesh, Point};
use zip::write::SimpleFileOptions;

use crate::model_3mf::{MODEL, Transform, moved};
use crate::units::LengthUnit;
use crate::write::Body;

const CORE: &str = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02";

/// Writes bodies whose numbers are in `unit`. Gives for each the earlier one of which it is a copy, where it is one.
pub(crate) fn write(
    title: &str,
    bodies: &[Body<'_>],
    unit: LengthUnit,
    out: &mut (impl Write + Seek),
) -> std::io::Result<Vec<Option<usize>>> {
    let copies = copies(bodies);
    let mut archive = zip::ZipWriter::new(out);
    // A fixed date: the same solids give the same bytes.
    let options = SimpleFileOptions::default().last_modified_time(zip::DateTime::default());
    archive.start_file("[Content_Types].xml", options)?;
    archive.write_all(br#"<?xml version="1.0" encoding="UTF-8"?>
<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>"#)?;
    archive.start_file("_rels/.rels", options)?;
    write!(
        archive,
        r#"<?xml version="1.0" encoding="UTF-8"?>
<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/{MODEL}" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>"#
    )?;
    archive.start_file(MODEL, options)?;
    let mut xml = std::io::BufWriter::new(archive);
    writeln!(xml, r#"<?xml version="1.0" encoding="UTF-8"?>"#)?;
    writeln!(xml, r#"<model unit="{}" xml:lang="en-US" xmlns="{CORE}">"#, unit.name_in_3mf())?;
    let title = quick_xml::escape::escape(title);
    writeln!(xml, r##"<metadata name="Title">{title}</metadata><resources><basematerials id="1">"##)?;
    let own = || bodies.iter().enumerate().filter(|(n, _)| copies[*n].is_none());
    for (_, body) in own() {
        let ([r, g, b], name) = (body.colour, quick_xml::escape::escape(body.name));
        writeln!(xml, r##"<base name="{name}" displaycolor="#{r:02X}{g:02X}{b:02X}"/>"##)?;
    }
    writeln!(xml, "</basematerials>")?;
    for (place, (n, body)) in own().enumerate() {
        object(&mut xml, body, object_id(n), place)?;
    }
    writeln!(xml, "</resources><build>")?;
    for (n, copy) in copies.iter().enumerate() {
        match copy {
            None => writeln!(xml, r#"<item objectid="{}"/>"#, object_id(n))?,
            Some((of, by)) => {
                let by: Vec<String> = by.iter().map(f64::to_string).collect();
                writeln!(xml, r#"<item objectid="{}" transform="{}"/>"#, object_id(*of), by.join(" "))?;
            }
        }
    }
    writeln!(xml, "</build></model>")?;
    xml.flush()?;
    xml.into_inner().map_err(std::io::IntoInnerError::into_error)?.finish()?;
    Ok(copies.into_iter().map(|c| c.map(|(of, _)| of)).collect())
}

/// Number 1 are the colours.
fn object_id(body: usize) -> usize {
    body + 2
}

fn object(xml: &mut impl Write, body: &Body<'_>, id: usize, colour: usize) -> std::io::Result<()> {
    let name = quick_xml::escape::escape(body.name);
    writeln!(xml, r#"<object id="{id}" type="model" name="{name}" pid="1" pindex="{colour}"><mesh><vertices>"#)?;
    for p in body.mesh.points() {
        writeln!(xml, r#"<vertex x="{}" y="{}" z="{}"/>"#, p.x, p.y, p.z)?;
    }
    writeln!(xml, "</vertices><triangles>")?;
    for t in body.mesh.triangles() {
        writeln!(xml, r#"<triangle v1="{}" v2="{}" v3="{}"/>"#, t[0], t[1], t[2])?;
    }
    writeln!(xml, "</triangles></mesh></object>")
}

/// For each body the first one of the same name and colour of which it is a moved copy, and how it was moved. Name and colour belong to
/// the object, so bodies that differ in them are objects of their own.
fn copies(bodies: &[Body<'_>]) -> Vec<Option<(usize, Transform)>> {
    let mut found: Vec<Option<(usize, Transform)>> = Vec::with_capacity(bodies.len());
    for (n, body) in bodies.iter().enumerate() {
        let alike = |k: &usize| {
            found[*k].is_none()
                && bodies[*k].colour == body.colour
                && plain_name(bodies[*k].name) == plain_name(body.name)
        };
        let copy = (0..n).filter(alike).find_map(|k| Some((k, copied(bodies[k].mesh, body.mesh)?)));
        found.push(copy);
    }
    found
}

/// A name without the number it got because another was called the same.
fn plain_name(name: &str) -> &str {
    match name.rsplit_once(' ') {
        Some((plain, number)) if number.bytes().all(|c| c.is_ascii_digit()) => plain,
        _ => name,
    }
}

/// How the first mesh must be turned and moved to be the second, corner by corner; none where it cannot be.
fn copied(of: &Mesh, to: &Mesh) -> Option<Transform> {
    /// Steps of the last place of the largest number by which places may differ: a turn and a sum of four products.
    const LAST_PLACES: f64 = 32.0;
    if of.triangles() != to.triangles() || of.points().len() != to.points().len() {
        return None;
    }
    let largest = of.points().iter().chain(to.points()).map(|p| p.abs().max_element()).fold(0.0, f64::max);
    let within = largest * f64::EPSILON * LAST_PLACES;
    let holds = |by: &Transform| of.points().iter().zip(to.points()).all(|(a, b)| moved(by, *a).distance(*b) <= within);
    let shift = *to.points().first()? - *of.points().first()?;
    let plain = [1.0, 0.0, 0.0, 0.0, 1.0, 0.0, 0.0, 0.0, 1.0, shift.x, shift.y, shift.z];
    if holds(&plain) {
        return Some(plain);
    }
    let corners = spread(of.points())?;
    let [from, into] = [frame(of, corners)?, frame(to, corners)?];
    // Each row is where an axis goes.
    let row = |axis: Point| (0..3).map(|k| into[k] * from[k].dot(axis)).sum::<Point>();
    let rows = [row(Point::X), row(Point::Y), row(Point::Z)];
    let first = of.points()[corners[0]];
    let turned = rows[0] * first.x + rows[1] * first.y + rows[2] * first.z;
    let shift = to.points()[corners[0]] - turned;
    let mut by = [0.0; 12];
    for (k, r) in rows.into_iter().chain([shift]).enumerate() {
        by[k * 3..k * 3 + 3].copy_from_slice(&r.to_array());
    }
    holds(&by).then_some(by)
}

/// Three corners far from each other and from one line.
fn spread(points: &[Point]) -> Option<[usize; 3]> {
    let farthest = |how_far: &dyn Fn(Point) -> f64| {
        (0..points.len()).max_by(|a, b| how_far(points[*a]).total_cmp(&how_far(points[*b])))
    };
    let a = farthest(&|p| p.distance_squared(points[0]))?;
    let b = farthest(&|p| p.distance_squared(points[a]))?;
    let along = points[b] - points[a];
    let c = farthest(&|p| (p - points[a]).cross(along).length_squared())?;
    Some([a, b, c])
}

/// Right-handed axes along the first two corners, towards the third, and square to both.
fn frame(mesh: &Mesh, corners: [usize; 3]) -> Option<[Point; 3]> {
    let [a, b, c] = corners.map(|n| mesh.points()[n]);
    let along = (b - a).try_normalize()?;
    let up = along.cross(c - a).try_normalize()?;
    Some([along, up.cross(along), up])
}
