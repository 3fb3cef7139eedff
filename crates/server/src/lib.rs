//! server
