//! What stands where: the products of a file and their placements.

use glam::{DAffine3, DMat3, DVec3};
use nimbet_kernel::Progress;
use rustc_hash::{FxHashMap, FxHashSet};
use step_io::model::EntityKey;
use step_io::scene::{GeometricSet, MappedInstance, ProductDef, Rgb, Scene, Solid, SurfaceModel, Transform};

use super::loose::{self, Pieces};
use super::shapes::Shapes;
use super::{Held, Item, MOST_ITEMS, StepError};

/// So many assemblies may stand in each other.
const DEEPEST: usize = 64;
/// So many uses of products are followed.
const MOST_USES: usize = 1_000_000;

struct Walk<'a, 'm, 's> {
    scene: &'a Scene<'m>,
    shapes: &'s mut Shapes,
    /// Triangles by their product.
    pieces: FxHashMap<Option<EntityKey>, Vec<Pieces<'a>>>,
    items: Vec<Item>,
    seen: FxHashSet<EntityKey>,
    uses: usize,
    progress: &'a Progress,
}

/// What stands at one place under one name.
#[derive(Default)]
struct Shown<'m> {
    solids: Vec<Solid<'m>>,
    sheets: Vec<SurfaceModel<'m>>,
    sets: Vec<GeometricSet<'m>>,
}

impl<'m> Shown<'m> {
    fn of_product(product: &ProductDef<'m>) -> Self {
        Self {
            solids: product.solids().collect(),
            sheets: product.surface_models().collect(),
            sets: product.geometric_sets().collect(),
        }
    }

    fn of_mapped(mapped: &MappedInstance<'m>) -> Self {
        Self {
            solids: mapped.solids().collect(),
            sheets: mapped.surface_models().collect(),
            sets: mapped.geometric_sets().collect(),
        }
    }

    fn of_all(scene: &'m Scene<'_>) -> Self {
        Self { solids: scene.all_solids().collect(), sheets: scene.all_surface_models().collect(), sets: vec![] }
    }

    fn keys(&self) -> impl Iterator<Item = EntityKey> + '_ {
        let solids = self.solids.iter().map(Solid::key);
        solids.chain(self.sheets.iter().map(SurfaceModel::key)).chain(self.sets.iter().map(GeometricSet::key))
    }

    #[must_use]
    fn without(mut self, seen: &FxHashSet<EntityKey>) -> Self {
        self.solids.retain(|s| !seen.contains(&s.key()));
        self.sheets.retain(|s| !seen.contains(&s.key()));
        self.sets.retain(|s| !seen.contains(&s.key()));
        self
    }
}

/// The bodies of a file where they stand.
pub(super) fn items(scene: &Scene<'_>, shapes: &mut Shapes, progress: &Progress) -> Result<Vec<Item>, StepError> {
    let pieces = loose::pieces(scene);
    let mut walk = Walk { scene, shapes, pieces, items: vec![], seen: FxHashSet::default(), uses: 0, progress };
    for root in scene.root_definitions() {
        walk.product(&root, DAffine3::IDENTITY, 0)?;
    }
    // What belongs to no product: placed by items that map it, or where it was modelled.
    for mapped in scene.all_mapped_instances() {
        let placement = mapped.transform().as_ref().and_then(affine).unwrap_or(DAffine3::IDENTITY);
        let shown = Shown::of_mapped(&mapped).without(&walk.seen);
        walk.put(&shown, None, (mapped.name(), placement))?;
    }
    for mapped in scene.all_mapped_instances() {
        walk.seen.extend(Shown::of_mapped(&mapped).keys());
    }
    let rest = Shown::of_all(scene).without(&walk.seen);
    walk.put(&rest, Some(None), ("", DAffine3::IDENTITY))?;
    walk.loose_sets()?;
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
        let name = product_name(product);
        let shown = Shown::of_product(product);
        self.seen.extend(shown.keys());
        self.put(&shown, Some(Some(product.key())), (name, placement))?;
        for used in product.occurrences() {
            let Some(definition) = used.definition() else { continue };
            let own = used.transform().as_ref().and_then(affine).unwrap_or(DAffine3::IDENTITY);
            self.product(&definition, placement * own, depth + 1)?;
        }
        Ok(())
    }

    /// Curves and points of no product: some draw notes and dimensions with them, so that they only count where nothing else is there.
    fn loose_sets(&mut self) -> Result<(), StepError> {
        let sets: Vec<_> = self.scene.all_geometric_sets().filter(|s| !self.seen.contains(&s.key())).collect();
        if !self.items.is_empty() {
            self.shapes.loose.aside += sets.len();
            return Ok(());
        }
        self.put(&Shown { sets, ..Shown::default() }, None, ("", DAffine3::IDENTITY))?;
        if self.items.is_empty() {
            let held = self.shapes.loose.edges(self.scene, self.progress)?;
            let roots: Vec<_> = self.scene.root_definitions().collect();
            let name = called(roots.first().filter(|_| roots.len() == 1).map_or("", product_name), "", None);
            self.items.extend(held.map(|of| Item { name, of, placement: DAffine3::IDENTITY, colour: None }));
        }
        Ok(())
    }

    /// Puts down what is shown, with the triangles of a product.
    fn put(
        &mut self,
        shown: &Shown<'_>,
        product: Option<Option<EntityKey>>,
        (name, placement): (&str, DAffine3),
    ) -> Result<(), StepError> {
        let mut found: Vec<(Held, &str, Option<Rgb>)> = Vec::new();
        for solid in &shown.solids {
            self.progress.check()?;
            found.extend(self.shapes.solid(self.scene, solid).map(|(n, c)| (Held::Body(n), solid.name(), c)));
        }
        for sheet in &shown.sheets {
            self.progress.check()?;
            found.extend(self.shapes.sheet(self.scene, sheet).map(|(n, c)| (Held::Body(n), sheet.name(), c)));
        }
        let is_exact = !found.is_empty();
        for piece in product.and_then(|key| self.pieces.get(&key)).into_iter().flatten() {
            if is_exact || piece.is_shown {
                self.shapes.loose.shown += 1;
                continue;
            }
            let held = self.shapes.loose.mesh(piece, self.progress)?;
            found.extend(held.map(|held| (held, piece.name, piece.colour)));
        }
        for set in &shown.sets {
            let held = self.shapes.loose.wire(set, self.progress)?;
            found.extend(held.map(|held| (held, set.name(), set.color())));
        }
        let several = found.len() > 1;
        for (n, (of, own, colour)) in found.into_iter().enumerate() {
            if self.items.len() >= MOST_ITEMS {
                return Err(StepError::TooMany);
            }
            let name = called(name, own, several.then_some(n + 1));
            self.items.push(Item { name, of, placement, colour: colour.map(eight_bits) });
        }
        Ok(())
    }
}

fn product_name<'m>(product: &ProductDef<'m>) -> &'m str {
    product.product().map(|p| if p.name().trim().is_empty() { p.id() } else { p.name() }).unwrap_or_default()
}

/// What something of a product is called that has a name of its own or none; of several with their number.
fn called(of: &str, own: &str, number: Option<usize>) -> String {
    let (own, of) = (own.trim(), of.trim());
    match (of.is_empty(), own.is_empty() || own == of, number) {
        (true, true, n) => format!("Body {}", n.unwrap_or(1)),
        (true, false, _) => own.to_owned(),
        (false, true, Some(n)) => format!("{of} {n}"),
        (false, false, Some(_)) => format!("{of}: {own}"),
        (false, _, None) => of.to_owned(),
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
