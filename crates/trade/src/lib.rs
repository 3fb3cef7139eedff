//! trade
