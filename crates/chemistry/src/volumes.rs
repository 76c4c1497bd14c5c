//! Volumes that labels and cookbooks use, in litres.

/// Litres in a US gallon. Source: NIST Handbook 44, appendix C.
pub const LITRES_PER_US_GALLON: f64 = 3.785_411_784;
/// Litres in an imperial gallon. Source: Weights and Measures Act 1985, schedule 1.
pub const LITRES_PER_IMPERIAL_GALLON: f64 = 4.546_09;
/// Millilitres in a US teaspoon. Source: NIST Handbook 44, appendix C.
pub const ML_PER_US_TEASPOON: f64 = 4.928_921_593_75;
