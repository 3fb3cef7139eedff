//! What stands where: the products of a file and their placements.

use glam::{DAffine3, DMat3, DVec3};
use nimbet_kernel::Progress;
use rustc_hash::FxHashSet;
use step_io::model::EntityKey;
use step_io::scene::{ProductDef, Rgb, Scene, Solid, SurfaceModel, Transform};

use super::shapes::Shapes;
use super::{Item, MOST_ITEMS, StepError};

/// So many assemblies may stand in each other.
const DEEPEST: usize = 64;
/// So many uses of products are followed.
const MOST_USES: usize = 1_000_000;

struct Walk<'a, 'm, 's> {
    scene: &'a Scene<'m>,
    shapes: &'s mut Shapes,
    items: Vec<Item>,
    seen: FxHashSet<EntityKey>,
    uses: usize,
    progress: &'a Progress,
}

/// The bodies of a file where they stand.
pub(super) fn items(scene: &Scene<'_>, shapes: &mut Shapes, progress: &Progress) -> Result<Vec<Item>, StepError> {
    let mut walk = Walk { scene, shapes, items: vec![], seen: FxHashSet::default(), uses: 0, progress };
    for root in scene.root_definitions() {
        walk.product(&root, DAffine3::IDENTITY, 0)?;
    }
    // What belongs to no product: placed by items that map it, or where it was modelled.
    for mapped in scene.all_mapped_instances() {
        let placement = mapped.transform().as_ref().and_then(affine).unwrap_or(DAffine3::IDENTITY);
        let solids: Vec<_> = mapped.solids().filter(|s| !walk.seen.contains(&s.key())).collect();
        let sheets: Vec<_> = mapped.surface_models().filter(|s| !walk.seen.contains(&s.key())).collect();
        walk.put(&solids, &sheets, mapped.name(), placement, false)?;
    }
    for mapped in scene.all_mapped_instances() {
        walk.seen.extend(mapped.solids().map(|s| s.key()).chain(mapped.surface_models().map(|s| s.key())));
    }
    let solids: Vec<_> = scene.all_solids().filter(|s| !walk.seen.contains(&s.key())).collect();
    let sheets: Vec<_> = scene.all_surface_models().filter(|s| !walk.seen.contains(&s.key())).collect();
    walk.put(&solids, &sheets, "", DAffine3::IDENTITY, true)?;
    walk.shapes.wires = scene.all_geometric_sets().count();
    Ok(walk.items)
}

impl Walk<'_, '_, '_> {
    fn product(&mut self, product: &ProductDef<'_>, placement: DAffine3, depth: usize) -> Result<(), StepError> {
        self.uses += 1;
        if depth > DEEPEST {
            return Err(StepError::Malformed(format!("its assemblies stand in each other more than {DEEPEST} deep")));
        }
        if self.uses > MOST_USES {
            return Err(StepError::TooMany);
        }
        self.progress.check()?;
        let named = product.product();
        let name = named.map(|p| if p.name().trim().is_empty() { p.id() } else { p.name() }).unwrap_or_default();
        let (solids, sheets): (Vec<_>, Vec<_>) = (product.solids().collect(), product.surface_models().collect());
        self.put(&solids, &sheets, name, placement, true)?;
        for used in product.occurrences() {
            let Some(definition) = used.definition() else { continue };
            let own = used.transform().as_ref().and_then(affine).unwrap_or(DAffine3::IDENTITY);
            self.product(&definition, placement * own, depth + 1)?;
        }
        Ok(())
    }

    fn put(
        &mut self,
        solids: &[Solid<'_>],
        sheets: &[SurfaceModel<'_>],
        name: &str,
        placement: DAffine3,
        mark: bool,
    ) -> Result<(), StepError> {
        let several = solids.len() + sheets.len() > 1;
        let called = |own: &str, n: usize| {
            let (own, of) = (own.trim(), name.trim());
            match (of.is_empty(), own.is_empty() || own == of) {
                (true, true) => format!("Body {n}"),
                (true, false) => own.to_owned(),
                (false, true) if several => format!("{of} {n}"),
                (false, false) if several => format!("{of}: {own}"),
                (false, _) => of.to_owned(),
            }
        };
        let add = |walk: &mut Self, body: Option<usize>, name: String, colour: Option<Rgb>| {
            let Some(body) = body else { return Ok(()) };
            if walk.items.len() >= MOST_ITEMS {
                return Err(StepError::TooMany);
            }
            walk.items.push(Item { name, body, placement, colour: colour.map(eight_bits) });
            Ok(())
        };
        for (n, solid) in solids.iter().enumerate() {
            self.progress.check()?;
            if mark {
                self.seen.insert(solid.key());
            }
            let body = self.shapes.solid(self.scene, solid);
            add(self, body, called(solid.name(), n + 1), solid.color())?;
        }
        for (n, sheet) in sheets.iter().enumerate() {
            self.progress.check()?;
            if mark {
                self.seen.insert(sheet.key());
            }
            let body = self.shapes.sheet(self.scene, sheet);
            add(self, body, called(sheet.name(), solids.len() + n + 1), sheet.color())?;
        }
        Ok(())
    }
}

fn eight_bits(colour: Rgb) -> [u8; 3] {
    [colour.red, colour.green, colour.blue].map(|c| (c.clamp(0.0, 1.0) * 255.0).round() as u8)
}

/// A placement as a map of points.
fn affine(transform: &Transform) -> Option<DAffine3> {
    let m = transform.matrix()?;
    let column = |c: usize| DVec3::new(m[0][c], m[1][c], m[2][c]);
    let map = DAffine3 { matrix3: DMat3::from_cols(column(0), column(1), column(2)), translation: column(3) };
    map.is_finite().then_some(map)
}
