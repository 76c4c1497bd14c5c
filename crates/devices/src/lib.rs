//! Instruments by address, over open protocols, and stand-ins that speak the same.
//!
//! - [`scale`]: a weighing scale that sends lines of text over TCP. [`scale::Scale`] keeps the
//!   line, says how it stands, and gives out a weight only where
//!   [`iron_twin_core::weigh::steady::Steady`] lets it be taken.
//! - [`stand_in`]: a scale that is not there, with a bench on which trays are put.
//!
//! Nothing here blocks, and a peer can neither fill the memory nor hold a thread: each wait has its
//! end, each line its longest length. What the lines look like stands in `docs/devices.md`.
//!
//! ```
//! use iron_twin_core::weigh::steady::ScaleSays;
//! assert_eq!(
//!     iron_twin_devices::scale::line::read(b"412.6 g stable"),
//!     Some(ScaleSays::Weight { g: 412.6, stable: true })
//! );
//! ```

pub mod contact;
pub mod lines;
pub mod modbus;
pub mod scale;
pub mod stand_in;
