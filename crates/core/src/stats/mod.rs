//! What the estimators stand on: distributions with honest tails, linear and mixed models, exact re-deals, power.
//!
//! Every public function says what it answers, in which units, and with which source. Symbols stay inside short
//! bodies; `df` is degrees of freedom and may be fractional.

pub mod distributions;
pub mod dose;
pub mod dunnett;
pub mod exact_tables;
pub mod growth;
pub mod least_squares;
pub mod linear;
pub mod looks;
pub mod mixed;
pub mod pooling;
pub mod power;
pub mod quasi;
pub mod ranks;
pub mod redeal;
pub mod split_plot;
pub mod spread;
pub mod studentised;
pub mod survival;
pub mod tukey;
pub mod turnbull;
pub mod welch;

/// Why a computation could not be carried out.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum StatsError {
    /// A number that must be finite was not.
    #[error("{what} must be a finite number")]
    NotFinite {
        /// Which argument.
        what: &'static str,
    },
    /// A number lies outside the range in which the question makes sense.
    #[error("{what} must lie between {min} and {max}, got {got}")]
    OutOfRange {
        /// Which argument.
        what: &'static str,
        /// Lowest admitted value.
        min: f64,
        /// Highest admitted value.
        max: f64,
        /// What came.
        got: f64,
    },
    /// The treatments cannot all be compared, because blocks do not connect them.
    #[error("treatment number {treatment} never shares a block, directly or through others, with the control")]
    NotConnected {
        /// Index of the treatment that stands apart.
        treatment: usize,
    },
    /// Two crossing sets of blocks leave nothing of the treatments.
    #[error("treatments follow rows and columns together, so that none can be told from where and when it stood")]
    Confounded,
    /// A solver ran out of steps.
    #[error("{what} did not settle within {steps} steps")]
    NoConvergence {
        /// Which solver.
        what: &'static str,
        /// How many steps it was given.
        steps: usize,
    },
}
