//! Estimators for designed trials: distributions with honest tails, linear and mixed models, exact
//! re-deals and ranks, curves, power, planned looks, pooling. It knows no trial, no plant and no
//! file, and is usable by itself.
//!
//! Every public function says what it answers, in which units, and with which source. Symbols stay
//! inside short bodies; `df` is degrees of freedom and may be fractional. Tails come from the
//! survival function, never from one less the distribution, so that a p of 1e-30 is told as such.
//!
//! | question | module |
//! |---|---|
//! | means of treatments, in blocks, rows and columns, with a starting size | [`linear`] |
//! | the same with samples inside units, or lamps over several units | [`mixed`], [`split_plot`] |
//! | two means whose spreads differ; one treatment wilder than the rest | [`welch`], [`two_spreads`] |
//! | counts and shares; at none or all; small tables exactly | [`quasi`], [`edge`], [`exact_tables`] |
//! | days to an event, seen or not yet, known exactly or between two checks | [`survival`], [`turnbull`] |
//! | grades and orders | [`ranks`] |
//! | could chance alone have dealt this? | [`redeal`] |
//! | several treatments against one control, or all against all; several questions at once | [`dunnett`], [`tukey`], [`holm`] |
//! | can a difference be tasted, which is preferred | [`tasting`] |
//! | doses, growth | [`dose`], [`growth`], on [`least_squares`] |
//! | what n units could see; looks before the end; rounds pooled | [`power`], [`looks`], [`pooling`] |
//! | spreads and odd ones out | [`spread`] |
//! | what all of them stand on | [`distributions`], [`studentised`] |
//!
//! From weights to a p that asks for no normal distribution:
//!
//! ```
//! use iron_twin_stats::linear::{Layout, Observation, fit};
//! use iron_twin_stats::redeal::{Block, redeal};
//!
//! let (control, fed) = ([41.0, 44.0, 43.0, 40.0], [49.0, 52.0, 47.0, 50.0]);
//! let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
//! let rows: Vec<_> = control.iter().map(|v| row(0, *v)).chain(fed.iter().map(|v| row(1, *v))).collect();
//! let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
//! assert_eq!(fit.difference(1, 0).estimate, 7.5);
//!
//! // Of the 70 ways to deal two treatments to eight trays only 2 part them as widely.
//! let deals = redeal(&[Block { treated: fed.to_vec(), control: control.to_vec() }], 1).expect("finite numbers");
//! assert!((deals.p - 2.0 / 70.0).abs() < 1e-12);
//! # Ok::<(), iron_twin_stats::StatsError>(())
//! ```
#![deny(missing_docs)]

pub mod concordance;
pub mod distributions;
pub mod dose;
pub mod dunnett;
pub mod edge;
pub mod exact_tables;
pub mod growth;
pub mod holm;
pub mod least_squares;
pub mod linear;
pub mod looks;
pub mod mixed;
pub mod outlier;
pub mod pooling;
pub mod power;
pub mod quasi;
pub mod ranks;
pub mod ratio;
pub mod redeal;
pub mod split_plot;
pub mod spread;
pub mod studentised;
pub mod survival;
pub mod tasting;
pub mod tukey;
pub mod turnbull;
pub mod two_spreads;
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
    #[error(
        "treatment number {treatment} never shares a block, directly or through others, with the \
         control"
    )]
    NotConnected {
        /// Index of the treatment that stands apart.
        treatment: usize,
    },
    /// Two crossing sets of blocks leave nothing of the treatments.
    #[error(
        "treatments follow rows and columns together, so that none can be told from where and \
         when it stood"
    )]
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
