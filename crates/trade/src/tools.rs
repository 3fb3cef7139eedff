//! Every tool there is.

use std::sync::{PoisonError, RwLock};

use crate::fasten::{Bore, Plug, Rebore, Stud, ThreadFaces};
use crate::plan::Plan;
use crate::seal::{
    AgreeWindings, Bridge, CloseGaps, CoverRim, CoverRuns, Drop, FillOutline, FindInside, GroupFaces, Join, LiftOut,
    MergeFaces, MergePoints, PullApart, ReSkin, Smooth, Turn, TurnOutward, Wrap,
};
use crate::shape::{
    AddBody, Base, Brace, Chambers, Chamfer, Difference, DrawProfile, Emboss, ExtendSheet, Extrude, Hull, Intersection,
    Loft, Mirror, Patch, Place, Relief, Repeat, Revolve, Round, Saw, Sweep, TakeOff, TrimSheet, Tube, Union, Untangle,
};
use crate::tool::{Kind, Tool};
use crate::wall::{Coat, Even, Grow, Hollow, OffsetSheet, Shell, Thicken};
use crate::weigh::{Fill, ScalePattern};

static TOOLS: &[Kind] = &[
    Kind::of::<Plan>(),
    Kind::of::<MergePoints>(),
    Kind::of::<CloseGaps>(),
    Kind::of::<CoverRim>(),
    Kind::of::<CoverRuns>(),
    Kind::of::<Bridge>(),
    Kind::of::<FillOutline>(),
    Kind::of::<AgreeWindings>(),
    Kind::of::<TurnOutward>(),
    Kind::of::<Turn>(),
    Kind::of::<Drop>(),
    Kind::of::<ReSkin>(),
    Kind::of::<LiftOut>(),
    Kind::of::<Smooth>(),
    Kind::of::<GroupFaces>(),
    Kind::of::<MergeFaces>(),
    Kind::of::<PullApart>(),
    Kind::of::<Join>(),
    Kind::of::<FindInside>(),
    Kind::of::<Wrap>(),
    Kind::of::<Union>(),
    Kind::of::<Difference>(),
    Kind::of::<Intersection>(),
    Kind::of::<Untangle>(),
    Kind::of::<Saw>(),
    Kind::of::<Chambers>(),
    Kind::of::<Base>(),
    Kind::of::<Hull>(),
    Kind::of::<Brace>(),
    Kind::of::<Place>(),
    Kind::of::<Mirror>(),
    Kind::of::<Repeat>(),
    Kind::of::<AddBody>(),
    Kind::of::<Round>(),
    Kind::of::<Chamfer>(),
    Kind::of::<TakeOff>(),
    Kind::of::<DrawProfile>(),
    Kind::of::<Extrude>(),
    Kind::of::<Revolve>(),
    Kind::of::<Relief>(),
    Kind::of::<Sweep>(),
    Kind::of::<Loft>(),
    Kind::of::<Patch>(),
    Kind::of::<TrimSheet>(),
    Kind::of::<ExtendSheet>(),
    Kind::of::<Emboss>(),
    Kind::of::<Tube>(),
    Kind::of::<Thicken>(),
    Kind::of::<Hollow>(),
    Kind::of::<Shell>(),
    Kind::of::<Even>(),
    Kind::of::<Coat>(),
    Kind::of::<Grow>(),
    Kind::of::<OffsetSheet>(),
    Kind::of::<Fill>(),
    Kind::of::<ScalePattern>(),
    Kind::of::<Bore>(),
    Kind::of::<ThreadFaces>(),
    Kind::of::<Stud>(),
    Kind::of::<Plug>(),
    Kind::of::<Rebore>(),
];

/// Those that were added to them.
static ADDED: RwLock<Vec<Kind>> = RwLock::new(Vec::new());

/// Adds a tool that is made elsewhere, before recipes or ledgers that hold it are read.
pub fn add<T: Tool>() {
    let mut added = ADDED.write().unwrap_or_else(PoisonError::into_inner);
    if kinds_in(&added, T::KIND).is_none() {
        added.push(Kind::of::<T>());
    }
}

/// Every tool, in the order of their lists.
pub fn kinds() -> Vec<Kind> {
    let added = ADDED.read().unwrap_or_else(PoisonError::into_inner);
    TOOLS.iter().chain(&*added).copied().collect()
}

pub(crate) fn kinds_called(kind: &str) -> Option<Kind> {
    kinds_in(&ADDED.read().unwrap_or_else(PoisonError::into_inner), kind)
}

fn kinds_in(added: &[Kind], kind: &str) -> Option<Kind> {
    TOOLS.iter().chain(added).find(|k| k.kind == kind).copied()
}
