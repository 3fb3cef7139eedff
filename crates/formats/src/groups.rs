//! What a file tells of its triangles beside where they are: colours, materials, named groups. Each becomes a number, which the
//! triangles carry as their face until faces are told apart.

use std::collections::HashMap;
use std::hash::Hash;

use nimbet_kernel::FaceId;

/// More of them paint a picture on the surface; they tell no faces apart.
pub(crate) const MOST_GROUPS: usize = 1000;

/// The groups of a file, numbered as they are met.
pub(crate) struct Groups<K> {
    known: HashMap<K, FaceId>,
    /// Most triangles are of the group of the one before.
    last: Option<(K, FaceId)>,
}

impl<K: Clone + Eq + Hash> Groups<K> {
    pub fn new() -> Self {
        Self { known: HashMap::new(), last: None }
    }

    /// The number of a group. Beyond [`MOST_GROUPS`] all have one number more.
    pub fn number(&mut self, group: K) -> FaceId {
        if let Some((last, number)) = &self.last
            && *last == group
        {
            return *number;
        }
        let next = FaceId(self.known.len() as u32);
        let full = self.known.len() > MOST_GROUPS;
        let known = self.known.get(&group).copied();
        let number = known.unwrap_or(if full { FaceId(MOST_GROUPS as u32) } else { next });
        if known.is_none() && !full {
            self.known.insert(group.clone(), number);
        }
        self.last = Some((group, number));
        number
    }

    /// Whether some triangle was of another group than this, which says nothing.
    pub fn tell_more_than(&self, nothing: &K) -> bool {
        self.known.keys().any(|k| k != nothing)
    }
}
