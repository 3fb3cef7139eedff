//! Made-up STEP parts as triangles: against closed forms, closed, and on their surfaces. `scripts/step-parts` wrote the files.

use std::f64::consts::PI;

use nimbet_brep::{Contents, Fineness, Held, StepError, Surface, Tessellated, read_step, tessellate};
use nimbet_kernel::measure::measure;
use nimbet_kernel::{FaceId, Mesh, Point, Progress, Topology};

fn text(name: &str) -> String {
    std::fs::read_to_string(format!("{}/tests/parts/{name}.step", env!("CARGO_MANIFEST_DIR"))).unwrap()
}

fn read(text: &str) -> Result<Contents, StepError> {
    read_step(text.as_bytes(), &Progress::unwatched())
}

fn part(name: &str) -> Contents {
    read(&text(name)).unwrap_or_else(|e| panic!("{name}: {e}"))
}

/// Triangles of a body, `chord` in millimetres.
fn made(contents: &Contents, body: usize, chord: f64) -> Tessellated {
    let fineness = Fineness { chord: chord / contents.to_millimetres, angle: 0.26 };
    tessellate(&contents.bodies[body], &fineness, 5_000_000, &Progress::unwatched()).unwrap()
}

fn is_closed(mesh: &Mesh) -> bool {
    Topology::new(mesh.triangles(), mesh.points().len()).naked_halves().is_empty()
}

/// Volume and area in millimetres, where nothing but the chord bounds how coarse it is.
fn size(contents: &Contents, chord: f64) -> [f64; 2] {
    let fineness = Fineness { chord: chord / contents.to_millimetres, angle: 1.2 };
    let made = tessellate(&contents.bodies[0], &fineness, 5_000_000, &Progress::unwatched()).unwrap();
    let measured = measure(&made.mesh);
    let k = contents.to_millimetres;
    [measured.volume * k.powi(3), measured.area * k.powi(2)]
}

/// What is known of parts in closed form: volume, mm³, and area, mm².
fn known() -> Vec<(&'static str, f64, f64)> {
    let [a, b, c, r] = [40.0, 30.0, 20.0, 3.0];
    let [p, q, s] = [a - 2.0 * r, b - 2.0 * r, c - 2.0 * r];
    let rounded = p * q * s + 2.0 * r * (p * q + q * s + s * p) + PI * r * r * (p + q + s) + 4.0 / 3.0 * PI * r.powi(3);
    let rounded_area = 2.0 * (p * q + q * s + s * p) + 2.0 * PI * r * (p + q + s) + 4.0 * PI * r * r;
    let pipe = PI * (625.0 - 64.0) * 16.0 - 6.0 * PI * 3.3f64.powi(2) * 16.0 + PI * (100.0 - 64.0) * 44.0;
    let flange = 2.0 * PI * (625.0 - 64.0 + 625.0 - 100.0) - 24.0 * PI * 3.3f64.powi(2);
    let pipe_area = flange + 2.0 * PI * (25.0 * 16.0 + 8.0 * 60.0 + 10.0 * 44.0) + 6.0 * 2.0 * PI * 3.3 * 16.0;
    let ball = |r: f64| 4.0 / 3.0 * PI * r.powi(3);
    let half = (400.0f64 - 16.0).sqrt();
    let ring = 2.0 * PI * PI * 20.0 * 36.0;
    let slope = (15.0f64 * 15.0 + 900.0).sqrt();
    // Of a half circle of radius 3: its area, and how far its middle stands off its diameter.
    let (bead, off) = (PI * 4.5, 4.0 * 3.0 / (3.0 * PI));
    let knob = PI / 3.0 * 20.0 * (64.0 + 112.0 + 196.0) + PI * 196.0 * 6.0 + 2.0 * PI * (14.0 + off) * bead;
    let knob_area = PI * (64.0 + 22.0 * 436.0f64.sqrt() + 196.0) + 2.0 * PI * (14.0 + 2.0 * 3.0 / PI) * PI * 3.0;
    // A paraboloid: 20 wide, 25 high.
    let bowl_area = PI * 400.0 + PI * 20.0 / (6.0 * 625.0) * ((400.0f64 + 4.0 * 625.0).powf(1.5) - 8000.0);
    vec![
        ("rounded-block", rounded, rounded_area),
        ("flanged-pipe", pipe, pipe_area),
        ("flanged-pipe-metre", pipe, pipe_area),
        ("ball", ball(20.0), 4.0 * PI * 400.0),
        ("ball-one-hole", PI * (2.0 * half).powi(3) / 6.0, 4.0 * PI * half * (20.0 + 4.0)),
        ("ball-octant", ball(20.0) / 8.0, PI * 400.0 / 2.0 + 3.0 * PI * 100.0),
        ("ring", ring, 4.0 * PI * PI * 120.0),
        ("ring-half", ring / 2.0, 2.0 * PI * PI * 120.0 + 2.0 * PI * 36.0),
        ("cone", PI * 225.0 * 10.0, PI * 15.0 * (15.0 + slope)),
        ("cone-half", PI * 225.0 * 5.0, PI * 15.0 * (15.0 + slope) / 2.0 + 450.0),
        ("knob", knob, knob_area),
        ("bowl", PI * 400.0 * 12.5, bowl_area),
        ("block-with-void", 24000.0 - ball(7.0), 5200.0 + 4.0 * PI * 49.0),
        // The ends of the wire are discs square to it; its length is that of the helix.
        ("spring", PI * 2.25 * 3.0 * (400.0 * PI * PI + 64.0f64).sqrt(), f64::NAN),
    ]
}

#[test]
fn volumes_and_areas_come_to_the_closed_forms_as_the_chord_falls() {
    for (name, volume, area) in known() {
        let contents = part(name);
        let off = |chord: f64| {
            let [v, a] = size(&contents, chord);
            [(v / volume - 1.0).abs(), (a / area - 1.0).abs()]
        };
        let (coarse, fine) = (off(0.08), off(0.01));
        // The spring's wire is followed as a spline of its own, to a thousandth of its size.
        let floor = if name == "spring" { 2e-3 } else { 1e-6 };
        for k in 0..2 {
            let holds = area.is_nan() && k == 1 || fine[k] < (coarse[k] * 0.25).max(floor) && fine[k] < 8e-3;
            assert!(holds, "{name}: off by {coarse:?}, then by {fine:?}");
        }
    }
}

/// All files with what is open in them: bodies that are sheets.
const FILES: [(&str, usize); 30] = [
    ("ball", 0),
    ("ball-as-turned", 0),
    ("ball-octant", 0),
    ("ball-one-hole", 0),
    ("ball-two-holes", 0),
    ("block-with-void", 0),
    ("bowl", 0),
    ("cone", 0),
    ("cone-half", 0),
    ("drum-drilled", 0),
    ("drum-drilled-rounded", 0),
    ("drum-drilled-splines", 0),
    ("drum-slant", 0),
    ("egg", 0),
    ("egg-bitten", 0),
    ("extruded-loop", 0),
    ("flanged-pipe", 0),
    ("flanged-pipe-metre", 0),
    ("knob", 0),
    ("mast-lantern", 1),
    ("mixed", 1),
    ("ring", 0),
    ("ring-bitten-splines", 0),
    ("ring-drilled", 0),
    ("ring-drilled-at-seam", 0),
    ("ring-half", 0),
    ("rounded-block", 0),
    ("spring", 0),
    ("vase-hollow", 0),
    ("wavy-block", 0),
];

#[test]
fn solids_close_and_their_triangles_lie_on_their_surfaces() {
    for (name, sheets) in FILES {
        let contents = part(name);
        let mut open = 0;
        for (n, body) in contents.bodies.iter().enumerate() {
            let made = made(&contents, n, 0.05);
            assert_eq!(made.left_open, [], "{name}");
            assert_eq!(is_closed(&made.mesh), contents.solid[n], "{name}, body {n}");
            open += usize::from(!contents.solid[n]);
            if contents.solid[n] {
                assert!(measure(&made.mesh).volume > 0.0, "{name} is inside out");
            }
            stand_on(name, &made.mesh, body, 1.0 / contents.to_millimetres);
        }
        assert_eq!(open, sheets, "{name}");
    }
}

/// Every corner lies on its face's surface, and no triangle stands off it by more than a little over the chord.
fn stand_on(name: &str, mesh: &Mesh, body: &nimbet_brep::Body, mm: f64) {
    let off = |surface: &Surface, p: Point| (surface.at(surface.place(p, None))[0] - p).length();
    for t in 0..mesh.triangles().len() {
        let FaceId(face) = mesh.face_of()[t];
        let surface = &body.faces[face as usize].surface;
        let corners = mesh.corners(t);
        let worst = corners.into_iter().map(|p| off(surface, p)).fold(0.0, f64::max);
        // Of what lies on two surfaces that meet only so exactly in the file.
        assert!(worst < 2e-3 * mm, "{name}, face {face}: a corner is {worst} off");
        let middle = (corners[0] + corners[1] + corners[2]) / 3.0;
        assert!(off(surface, middle) < 0.05 * mm * 2.0, "{name}, face {face}: a triangle is off");
    }
}

#[test]
fn faces_keep_their_kinds_and_exact_measures() {
    let pipe = part("flanged-pipe");
    let bores =
        pipe.bodies[0].faces.iter().filter(|f| matches!(f.surface, Surface::Cylinder { radius, .. } if radius == 3.3));
    assert_eq!(bores.count(), 12, "six bores through two flanges");
    let metre = part("flanged-pipe-metre");
    assert_eq!((metre.to_millimetres, metre.unit.as_str()), (1000.0, "metre"));
    let mut kinds: Vec<&str> = part("rounded-block").bodies[0].faces.iter().map(|f| f.surface.name()).collect();
    kinds.sort_unstable();
    let count = |kind| kinds.iter().filter(|k| **k == kind).count();
    assert_eq!((count("plane"), count("cylinder"), count("sphere")), (6, 12, 8));
    let hollow = part("vase-hollow");
    assert!(hollow.bodies[0].faces.iter().any(|f| matches!(f.surface, Surface::Offset { .. })));
}

#[test]
fn an_assembly_comes_in_as_it_stands_with_names_and_colours() {
    let lantern = part("mast-lantern");
    assert!((lantern.to_millimetres - 25.4).abs() < 1e-9);
    let mut names: Vec<&str> = lantern.items.iter().map(|i| i.name.as_str()).collect();
    names.sort_unstable();
    let posts = ["Lamp post"; 4];
    assert_eq!(names, [&["Base plate", "Housing without front", "Knob"][..], &posts, &["Lid plate"]].concat());
    assert_eq!(lantern.bodies.len(), 5, "a post is one body in four places");
    let posts: Vec<_> = lantern.items.iter().filter(|i| i.name == "Lamp post").collect();
    assert!(posts.iter().all(|p| p.colour == Some([51, 102, 204])), "{:?}", posts[0].colour);
    // The frame is turned by 30° and moved 10 inches; its posts stand 0.5 and 3.5 along, 0.5 and 2.5 across.
    let (sin, cos) = (PI / 6.0).sin_cos();
    for (x, y) in [(0.5, 0.5), (3.5, 0.5), (0.5, 2.5), (3.5, 2.5)] {
        let foot = Point::new(10.0 + cos * x - sin * y, sin * x + cos * y, 0.5);
        let at = |p: &&&nimbet_brep::Item| (p.placement.translation - foot).length() < 1e-9;
        assert_eq!(posts.iter().filter(at).count(), 1, "{foot}");
    }
    let housing = lantern.items.iter().find(|i| i.name.starts_with("Housing")).unwrap();
    assert!(matches!(housing.of, Held::Body(n) if !lantern.solid[n]));
}

#[test]
fn curves_without_a_surface_and_triangles_come_in_with_their_names() {
    let rail = part("wires");
    let named: Vec<(&str, Held)> = rail.items.iter().map(|i| (i.name.as_str(), i.of)).collect();
    assert_eq!(named, [("Rail run: Outline", Held::Wire(0)), ("Rail run: Rail", Held::Wire(1))]);
    assert_eq!(rail.notes, ["left out, as they hold no curves: sets of points (1)"]);
    // A curve put together of four, and a circle; three that go on from each other in no order.
    assert_eq!(rail.wires.iter().map(Vec::len).collect::<Vec<_>>(), [2, 3]);
    let up = &rail.wires[1][1];
    assert_eq!(up.knots().range().map(|t| up.at(t).0), [Point::ZERO, Point::Z * 100.0]);
    assert!(part("mixed").items.iter().any(|i| matches!(i.of, Held::Wire(_))));

    let chock = part("triangles");
    let [Held::Mesh(0)] = chock.items.iter().map(|i| i.of).collect::<Vec<_>>()[..] else { panic!("{:?}", chock.items) };
    let own = &chock.meshes[0];
    let faces = own.face_of.iter().map(|f| FaceId(*f)).collect();
    let mesh = nimbet_kernel::weld::weld_mesh(&own.points, &own.triangles, faces).unwrap();
    assert!(is_closed(&mesh), "strips and fans that share corners close");
    // Turned inside out by strips read the wrong way round, it would not be positive.
    assert!((measure(&mesh).volume - 6.0).abs() < 1e-12, "cubic inches: {}", measure(&mesh).volume);
    assert_eq!((chock.to_millimetres * 10.0).round(), 254.0);
    // The same as plain triangles, whatever the buffers they come through cut in two.
    let plain = text("triangles")
        .lines()
        .map(|line| match line.split_once("COMPLEX_TRIANGULATED_FACE") {
            Some((before, after)) => {
                let (head, tail) = after.split_once("$,").unwrap();
                let corners = tail.split_once("),").unwrap().0;
                format!("{before}TRIANGULATED_FACE{head}$,{corners}),((1,2,3),(1,3, 4 )));\n")
            }
            None => format!("{line}\n"),
        })
        .collect::<String>();
    assert_eq!(plain.matches("= TRIANGULATED_FACE").count(), 6);
    for size in [1, 7, 64, 4096] {
        let read = read_step(InPieces(plain.as_bytes(), size), &Progress::unwatched()).unwrap();
        let own = &read.meshes[0];
        let faces = own.face_of.iter().map(|f| FaceId(*f)).collect();
        let mesh = nimbet_kernel::weld::weld_mesh(&own.points, &own.triangles, faces).unwrap();
        assert!(
            is_closed(&mesh) && (measure(&mesh).volume - 6.0).abs() < 1e-12,
            "{} in pieces of {size}",
            measure(&mesh).volume
        );
    }
    // What shows a body that is there exactly is left out: triangles beside a solid of the same product.
    let ball = text("ball");
    let product = ball.find("PRODUCT_DEFINITION_SHAPE").map(|at| {
        let before = &ball[..at];
        before[before.rfind('#').unwrap()..].split_whitespace().next().unwrap().to_owned()
    });
    let shown = format!(
        "#9001=COORDINATES_LIST('',3,((0.,0.,0.),(1.,0.,0.),(0.,1.,0.)));\n\
         #9002=COMPLEX_TRIANGULATED_FACE('',#9001,3,(),$,(1,2,3),((1,3,2)),());\n\
         #9003=TESSELLATED_SHELL('',(#9002),$);\n#9004=TESSELLATED_SHAPE_REPRESENTATION('',(#9003),{});\n\
         #9005=SHAPE_DEFINITION_REPRESENTATION({},#9004);\nENDSEC;\nEND-ISO",
        context_of(&ball),
        product.unwrap()
    );
    let both = read(&ball.replace("ENDSEC;\nEND-ISO", &shown)).unwrap();
    assert_eq!((both.items.len(), both.meshes.len()), (1, 0));
    assert_eq!(both.notes, ["left out, as they show bodies that were read exactly: sets of triangles (1)"]);
}

/// Bytes that come a few at a time.
struct InPieces<'a>(&'a [u8], usize);

impl std::io::Read for InPieces<'_> {
    fn read(&mut self, into: &mut [u8]) -> std::io::Result<usize> {
        let some = self.1.min(into.len()).min(self.0.len());
        into[..some].copy_from_slice(&self.0[..some]);
        self.0 = &self.0[some..];
        Ok(some)
    }
}

/// The context its representations stand in.
fn context_of(text: &str) -> String {
    let at = text.find("ADVANCED_BREP_SHAPE_REPRESENTATION").unwrap();
    let entity = &text[at..at + text[at..].find(';').unwrap()];
    format!("#{}", entity.rsplit('#').next().unwrap().trim_end_matches(')'))
}

#[test]
fn a_colour_written_to_every_face_is_the_bodys_own() {
    let block = text("rounded-block");
    let faces: Vec<String> = block
        .split(";\n")
        .filter(|e| e.contains("ADVANCED_FACE("))
        .map(|e| e.trim().split(' ').next().unwrap().to_owned())
        .collect();
    assert_eq!(faces.len(), 26);
    let styled = |faces: &[String]| {
        let mut more = String::from(
            "#9001=COLOUR_RGB('',0.2,0.4,0.8);\n#9002=FILL_AREA_STYLE_COLOUR('',#9001);\n#9003=FILL_AREA_STYLE('',(#9002));\n\
             #9004=SURFACE_STYLE_FILL_AREA(#9003);\n#9005=SURFACE_SIDE_STYLE('',(#9004));\n\
             #9006=SURFACE_STYLE_USAGE(.BOTH.,#9005);\n#9007=PRESENTATION_STYLE_ASSIGNMENT((#9006));\n",
        );
        for (n, face) in faces.iter().enumerate() {
            more += &format!("#{}=STYLED_ITEM('',(#9007),{face});\n", 9100 + n);
        }
        read(&block.replace("ENDSEC;\nEND-ISO", &format!("{more}ENDSEC;\nEND-ISO"))).unwrap()
    };
    let all = styled(&faces);
    assert_eq!((all.items[0].colour, all.notes), (Some([51, 102, 204]), vec![]));
    let some = styled(&faces[..7]);
    assert_eq!((some.items[0].colour, some.notes), (None, vec!["the colours of 7 faces were left out".to_owned()]));
}

#[test]
fn surfaces_trimmed_by_their_parameters_are_the_surfaces_themselves() {
    // Planes, cylinders, cones, tori, free forms.
    for name in ["knob", "bowl", "egg", "flanged-pipe", "spring"] {
        let (plain, mut faces) = (text(name), 0);
        let trimmed = |ways: &str, faces: &mut usize| -> String {
            let one = |entity: &str| {
                let Some((before, after)) = entity.split_once("ADVANCED_FACE(") else { return entity.to_owned() };
                let (bounds, way) = after.rsplit_once(',').unwrap();
                let (bounds, surface) = bounds.rsplit_once(',').unwrap();
                *faces += 1;
                let number = 90_000 + *faces;
                format!(
                    "{before}ADVANCED_FACE({bounds},#{number},{way};\n#{number}=RECTANGULAR_TRIMMED_SURFACE('a, ''b''(',{surface},-1.,2.E0,\n 0., 1.,{ways})"
                )
            };
            plain.split(";\n").map(one).collect::<Vec<_>>().join(";\n")
        };
        let (was, now) = (part(name), read(&trimmed(".T.,.T.", &mut faces)).unwrap());
        assert!(faces > 0 && now.notes == was.notes, "{name}: {:?}", now.notes);
        for (a, b) in was.bodies.iter().zip(&now.bodies) {
            let told = |body: &nimbet_brep::Body| format!("{:?}", body.faces);
            assert_eq!(told(a), told(b), "{name}");
        }
        // With one parameter turned it would be the other side: it is told as not read.
        let other = read(&trimmed(".T.,.F.", &mut faces));
        let told = other.map_or_else(|e| e.to_string(), |c| c.notes.join("; "));
        assert!(told.contains("RECTANGULAR_TRIMMED_SURFACE") || told.contains("not read"), "{name}: {told}");
    }
}

#[test]
fn finer_chords_follow_more_closely_and_no_more_than_that() {
    let egg = part("egg");
    let count = |chord: f64| made(&egg, 0, chord).mesh.triangles().len() as f64;
    let (coarse, fine) = (count(0.08), count(0.02));
    assert!((2.5..6.0).contains(&(fine / coarse)), "{coarse} triangles, then {fine}");
    let few = tessellate(&egg.bodies[0], &Fineness { chord: 1e-6, angle: 0.26 }, 10_000, &Progress::unwatched());
    assert!(few.unwrap_err().to_string().contains("10000"));
}

#[test]
fn what_is_no_part_is_refused_with_the_line() {
    let line = |text: &str| read(text).unwrap_err().to_string();
    let ball = text("ball");
    let cut_off = &ball[..ball.len() / 2];
    assert!(line(cut_off).contains("end of file") || line(cut_off).contains("line"), "{}", line(cut_off));
    let empty = "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('','',(''),(''),'','','');\nFILE_SCHEMA(('AUTOMOTIVE_DESIGN'));\nENDSEC;\nDATA;\n#1=CARTESIAN_POINT('',(0.,0.,0.));\nENDSEC;\nEND-ISO-10303-21;\n";
    assert!(line(empty).contains("no solid"), "{}", line(empty));
}

#[test]
fn absurd_numbers_leave_faces_open_and_nothing_hangs() {
    // Radii, knots and points beyond all reason, in the places of sound ones.
    let swaps = [
        ("ball-one-hole", "SPHERICAL_SURFACE('',#", ",20.);", ",1.E300);"),
        ("ring-half", "TOROIDAL_SURFACE('',#", ",20.,6.);", ",1.E-300,6.);"),
        ("cone-half", "CONICAL_SURFACE('',#", ",15.,0.463647609001);", ",15.,1.5707963267948966);"),
        ("bowl", "", "(3,3)", "(3,3000000)"),
    ];
    for (name, keyword, was, now) in swaps {
        let sound = text(name);
        let changed: String = sound
            .lines()
            .map(|l| if l.contains(keyword) { l.replace(was, now) } else { l.to_owned() } + "\n")
            .collect();
        if let Ok(contents) = read(&changed) {
            for n in 0..contents.bodies.len() {
                let made = made(&contents, n, 0.1);
                assert!(made.mesh.points().iter().all(|p| p.is_finite()), "{name}");
            }
        }
    }
}

#[test]
fn a_product_that_stands_in_itself_is_refused() {
    let lantern = text("mast-lantern");
    // The frame's base plate becomes the frame itself.
    let uses: Vec<&str> = lantern.split(';').filter(|e| e.contains("NEXT_ASSEMBLY_USAGE_OCCURRENCE")).collect();
    let relating = |entity: &str| {
        let numbers: Vec<String> =
            entity.split('#').skip(2).map(|n| n.chars().take_while(char::is_ascii_digit).collect()).collect();
        (numbers[0].clone(), numbers[1].clone())
    };
    let (frame, child) = relating(uses[0]);
    let looped = lantern.replacen(uses[0], &uses[0].replace(&format!("#{child}"), &format!("#{frame}")), 1);
    let why = read(&looped).err().map(|e| e.to_string());
    assert!(why.as_ref().is_none_or(|w| w.contains("deep") || w.contains("no solid")), "{why:?}");
}
