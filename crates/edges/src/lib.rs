//! Edges of bodies: found, followed, rounded and chamfered.
//!
//! An edge is where two faces meet at an angle, whatever they are ([`forms`], [`graph`]). Along a run of edges a section is put
//! down at each corner of it: the ball that touches both faces from the side the rounding is on, or the chord of a chamfer
//! ([`station`]). The sections make a sheet that goes through both faces where it touches them ([`sheet`]); where two runs take all of the face between them, one ball rolls along both ([`over`]), and bends tighter than the section are passed over ([`bends`], [`chain`]). The solid is cut
//! by it exactly: what lies between the sheet and the edge goes, or comes ([`carve`]). Edges that cannot be done at once, since where
//! they meet one goes over what the other makes, are done one after the other ([`finish`]). Faces are taken off
//! by carrying on those beside them ([`take_off`]); what leaves a face as it goes on asks for its way ([`beyond`](beyond())). Nothing here knows the rules of the job.

mod bends;
mod beyond;
mod carve;
mod chain;
mod finish;
pub mod forms;
pub mod graph;
mod open;
mod over;
pub mod plan;
mod room;
mod sheet;
pub mod station;
mod take_off;

pub use beyond::{Beyond, beyond};
pub use carve::{Carved, EdgeError};
pub use finish::{finish, largest};
pub use over::Vanished;
pub use take_off::{TakeOffError, take_off};
