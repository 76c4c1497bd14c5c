//! How much is enough? Dose curves: log-logistic, straight line, line up to a plateau, a hump; the
//! choice among them by AICc.

mod choice;
mod curves;

pub use choice::{DoseFits, Enough, LackOfFit, Model};
pub use curves::{
    LinearFit, LogLogisticFit, PlateauFit, QuadraticFit, fit_linear, fit_log_logistic, fit_plateau,
    fit_quadratic,
};
