//! Instruments that are not there: they speak as real ones do, with their faults, and trays are put
//! on them by hand at a small page, the bench.

pub mod bench;
pub mod modbus;
pub mod scale;

/// What can be put on the scale.
#[derive(Debug, Clone, PartialEq, serde::Serialize)]
pub struct Load {
    /// What it is called: its code.
    pub name: String,
    /// Container and greens, g.
    pub gross_g: f64,
    /// The container alone, g.
    pub tare_g: f64,
}
