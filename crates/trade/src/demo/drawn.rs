//! What is drawn rather than brought in: recipes that begin on the empty bench.

/// A recipe of the demo.
#[derive(Clone, Copy, Debug)]
pub struct Drawn {
    /// What it is named by.
    pub key: &'static str,
    /// What it makes.
    pub name: &'static str,
    /// How, in a line.
    pub what: &'static str,
    /// The recipe, as JSON.
    pub recipe: &'static str,
}

/// Recipes to begin with.
pub const DRAWN: [Drawn; 4] = [
    Drawn {
        key: "pennant-badge",
        name: "Pennant badge",
        what: "Regions of one drawing raised to four heights, with a well",
        recipe: include_str!("drawn/pennant-badge.json"),
    },
    Drawn {
        key: "stanchion-ring",
        name: "Stanchion ring",
        what: "A rod round a ring, and an eye that is tighter than itself",
        recipe: include_str!("drawn/stanchion-ring.json"),
    },
    Drawn {
        key: "lofted-scoop",
        name: "Lofted scoop",
        what: "A vessel through three outlines, its wall, and what it holds",
        recipe: include_str!("drawn/lofted-scoop.json"),
    },
    Drawn {
        key: "mooring-cleat",
        name: "Mooring cleat",
        what: "A foot, two posts and a horn, with every edge round",
        recipe: include_str!("drawn/mooring-cleat.json"),
    },
];
