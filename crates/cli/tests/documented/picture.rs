//! Parts drawn as a picture: seen from the right, the front and above, in plain light.

use nimbet_kernel::topology::EdgeUse;
use nimbet_kernel::{Aabb, Mesh, Point, Topology};

/// A picture, red green blue of each place.
#[derive(Clone, Debug, PartialEq)]
pub struct Picture {
    pub width: usize,
    pub height: usize,
    pub colours: Vec<u8>,
}

/// Each place is drawn as so many by so many.
const FINE: usize = 2;
const GROUND: [f64; 3] = [250.0, 247.0, 240.0];
const INSIDE: [f64; 3] = [62.0, 140.0, 122.0];
const EDGE: [f64; 3] = [46.0, 56.0, 64.0];
const NAKED: [f64; 3] = [232.0, 130.0, 20.0];
const PARTS: [[f64; 3]; 3] = [[158.0, 168.0, 178.0], [214.0, 168.0, 92.0], [150.0, 176.0, 200.0]];

struct Canvas {
    width: usize,
    height: usize,
    colours: Vec<[f64; 3]>,
    depths: Vec<f64>,
}

/// Where places are seen: right, up, and nearer.
pub struct Eye {
    axes: [Point; 3],
    middle: Point,
    scale: f64,
    size: [f64; 2],
}

impl Eye {
    /// One that sees all of some parts.
    pub fn on<'a>(parts: impl Iterator<Item = &'a Mesh>, (width, height): (usize, usize)) -> Self {
        let near = Point::new(0.52, -0.74, 0.43).normalize();
        let right = Point::Z.cross(near).normalize();
        let axes = [right, near.cross(right), near];
        let seen = Aabb::of(parts.flat_map(Mesh::points).map(|p| Point::from_array(axes.map(|a| a.dot(*p)))));
        let size = seen.size();
        let (w, h) = ((width * FINE) as f64, (height * FINE) as f64);
        let scale = (w * 0.86 / size.x.max(1e-9)).min(h * 0.86 / size.y.max(1e-9));
        Self { axes, middle: seen.centre(), scale, size: [w, h] }
    }

    fn place(&self, p: Point) -> Point {
        let seen = Point::from_array(self.axes.map(|a| a.dot(p))) - self.middle;
        Point::new(
            self.size[0] * 0.5 + seen.x * self.scale,
            self.size[1] * 0.5 - seen.y * self.scale,
            seen.z * self.scale,
        )
    }
}

impl Canvas {
    fn triangle(&mut self, [a, b, c]: [Point; 3], colour: [f64; 3]) {
        let area = (b - a).cross(c - a).z;
        if area.abs() < 1e-9 {
            return;
        }
        let least = a.min(b).min(c).floor().max(Point::ZERO);
        let most = a.max(b).max(c).ceil();
        for y in least.y as usize..(most.y.max(0.0) as usize + 1).min(self.height) {
            for x in least.x as usize..(most.x.max(0.0) as usize + 1).min(self.width) {
                let p = Point::new(x as f64 + 0.5, y as f64 + 0.5, 0.0);
                let share = |q: Point, r: Point| (q - p).cross(r - p).z / area;
                let [u, v, w] = [share(b, c), share(c, a), share(a, b)];
                if u >= 0.0 && v >= 0.0 && w >= 0.0 {
                    self.dot(x, y, a.z * u + b.z * v + c.z * w, colour);
                }
            }
        }
    }

    fn dot(&mut self, x: usize, y: usize, depth: f64, colour: [f64; 3]) {
        let at = y * self.width + x;
        if depth >= self.depths[at] {
            self.depths[at] = depth;
            self.colours[at] = colour;
        }
    }

    fn line(&mut self, a: Point, b: Point, (wide, colour): (i64, [f64; 3])) {
        /// Edges lie on what they are edges of.
        const NEARER: f64 = 2.5;
        let steps = ((b - a).truncate().length() * 1.5).ceil().max(1.0) as usize;
        for k in 0..=steps {
            let p = a.lerp(b, k as f64 / steps as f64);
            for (i, j) in (-wide..=wide).flat_map(|i| (-wide..=wide).map(move |j| (i, j))) {
                let (x, y) = (p.x as i64 + i, p.y as i64 + j);
                if (0..self.width as i64).contains(&x) && (0..self.height as i64).contains(&y) {
                    self.dot(x as usize, y as usize, p.z + NEARER, colour);
                }
            }
        }
    }
}

/// Draws parts.
pub fn drawn(parts: &[&Mesh], eye: &Eye) -> Picture {
    let [width, height] = eye.size.map(|s| s as usize);
    let places = width * height;
    let mut canvas = Canvas { width, height, colours: vec![GROUND; places], depths: vec![f64::NEG_INFINITY; places] };
    let light = (eye.axes[2] * 0.8 + eye.axes[1] * 0.5 - eye.axes[0] * 0.35).normalize();
    for (n, mesh) in parts.iter().enumerate() {
        let seen: Vec<Point> = mesh.points().iter().map(|p| eye.place(*p)).collect();
        for (t, triangle) in mesh.triangles().iter().enumerate() {
            let normal = mesh.area_vector(t).normalize_or_zero();
            let front = normal.dot(eye.axes[2]) > 0.0;
            let base = if front { PARTS[n.min(PARTS.len() - 1)] } else { INSIDE };
            // Faces differ a little, so that it is seen what is one.
            let tint = f64::from(mesh.face_of()[t].0.wrapping_mul(2_654_435_761) >> 29) / 7.0;
            let bright = (0.42 + 0.58 * normal.dot(light).abs()) * (0.93 + 0.1 * tint);
            canvas.triangle(triangle.map(|c| seen[c as usize]), base.map(|c| c * bright));
        }
        edges(mesh, &seen, &mut canvas);
    }
    shrunk(&canvas)
}

/// Naked edges, and those at which faces meet or the surface turns.
fn edges(mesh: &Mesh, seen: &[Point], canvas: &mut Canvas) {
    /// The cosine of the turn from which an edge is one.
    const SHARP: f64 = 0.8;
    let topology = Topology::new(mesh.triangles(), mesh.points().len());
    let drawn = mesh.drawn().is_some();
    for use_of in [EdgeUse::Naked, EdgeUse::Regular] {
        for edge in topology.edges_with(use_of) {
            let halves = topology.halves(edge);
            let (a, b) = topology.ends(halves[0]);
            let ends = [a, b].map(|c| seen[c as usize]);
            if use_of == EdgeUse::Naked {
                let look = if drawn { (0, EDGE) } else { (1, NAKED) };
                canvas.line(ends[0], ends[1], look);
                continue;
            }
            let [s, t] = [halves[0], halves[1]].map(|h| h as usize / 3);
            let turns = mesh.area_vector(s).normalize_or_zero().dot(mesh.area_vector(t).normalize_or_zero()) < SHARP;
            let parts = mesh.face_of()[s] != mesh.face_of()[t];
            let smooth = mesh.area_vector(s).normalize_or_zero().dot(mesh.area_vector(t).normalize_or_zero()) > 0.999;
            if turns || parts && !smooth {
                canvas.line(ends[0], ends[1], (0, EDGE));
            }
        }
    }
}

fn shrunk(canvas: &Canvas) -> Picture {
    let (width, height) = (canvas.width / FINE, canvas.height / FINE);
    let mut colours = Vec::with_capacity(width * height * 3);
    for (y, x) in (0..height).flat_map(|y| (0..width).map(move |x| (y, x))) {
        let own = (0..FINE * FINE).map(|k| canvas.colours[(y * FINE + k / FINE) * canvas.width + x * FINE + k % FINE]);
        let sum = own.fold([0.0; 3], |sum, c| [0, 1, 2].map(|k| sum[k] + c[k]));
        // In steps of four, so that the files stay small.
        colours.extend(sum.map(|s| ((s / (FINE * FINE) as f64 / 4.0).round() * 4.0).clamp(0.0, 255.0) as u8));
    }
    Picture { width, height, colours }
}

/// Two pictures beside each other, with a line between.
pub fn beside(a: &Picture, b: &Picture) -> Picture {
    const GAP: usize = 10;
    let (width, height) = (a.width + GAP + b.width, a.height);
    let mut colours = Vec::with_capacity(width * height * 3);
    for y in 0..height {
        colours.extend_from_slice(&a.colours[y * a.width * 3..(y + 1) * a.width * 3]);
        for x in 0..GAP {
            colours.extend(if x == GAP / 2 { [196; 3] } else { GROUND.map(|c| c as u8) });
        }
        colours.extend_from_slice(&b.colours[y * b.width * 3..(y + 1) * b.width * 3]);
    }
    Picture { width, height, colours }
}

impl Picture {
    /// As the bytes of a PNG file.
    pub fn png(&self) -> Vec<u8> {
        let mut bytes = Vec::new();
        let mut encoder = png::Encoder::new(&mut bytes, self.width as u32, self.height as u32);
        encoder.set_color(png::ColorType::Rgb);
        encoder.set_compression(png::Compression::High);
        encoder.write_header().unwrap().write_image_data(&self.colours).unwrap();
        bytes
    }

    /// Of the bytes of a PNG file.
    pub fn of_png(bytes: &[u8]) -> Self {
        let mut reader = png::Decoder::new(std::io::Cursor::new(bytes)).read_info().unwrap();
        let mut colours = vec![0; reader.output_buffer_size().unwrap()];
        let info = reader.next_frame(&mut colours).unwrap();
        colours.truncate(info.buffer_size());
        Self { width: info.width as usize, height: info.height as usize, colours }
    }

    /// By how much colours differ in the mean, of 255; of pictures of other sizes by all of it.
    pub fn off(&self, other: &Self) -> f64 {
        if (self.width, self.height) != (other.width, other.height) {
            return 255.0;
        }
        let sum: u64 = self.colours.iter().zip(&other.colours).map(|(a, b)| u64::from(a.abs_diff(*b))).sum();
        sum as f64 / self.colours.len() as f64
    }
}
