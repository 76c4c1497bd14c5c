//! The fitted model of amounts, whichever it was, as the contrasts need it.

use super::super::super::factors;
use super::super::super::result::Residual;
use super::super::super::table::Table;
use super::super::super::units::Units;
use iron_twin_stats::linear::{self, Layout, MeansFit};
use iron_twin_stats::split_plot::{self, SplitPlot, SplitPlotFit};
use iron_twin_stats::{StatsError, mixed};
use nalgebra::DMatrix;

/// The fitted model, whichever it was, as the contrasts need it.
pub(super) struct Model {
    pub(super) means: Vec<f64>,
    pub(super) covariance: DMatrix<f64>,
    /// Degrees of freedom of each contrast.
    pub(super) df: Vec<f64>,
    pub(super) satterthwaite: Option<Vec<f64>>,
    pub(super) spread: Spread,
    pub(super) overall: Option<linear::Overall>,
    pub(super) residual: Residual,
    /// Whether intervals can be had at all.
    pub(super) usable: bool,
}

/// Where the spread of a contrast comes from.
pub(super) enum Spread {
    /// One residual spread for all.
    Residual,
    /// Units, which their samples show.
    Units(Box<mixed::MixedFit>),
    /// Lamps, and trays under them.
    Fixtures(Box<SplitPlotFit>),
}

impl Model {
    /// Degrees of freedom of any contrast of the means.
    pub(super) fn df_of(&self, weights: &[f64]) -> f64 {
        match &self.spread {
            Spread::Residual => self.smallest_df(),
            Spread::Units(fit) => fit.df_of(weights),
            Spread::Fixtures(fit) => fit.df_of(weights),
        }
    }

    pub(super) fn test(&self, contrasts: &DMatrix<f64>) -> Option<linear::Overall> {
        match &self.spread {
            Spread::Residual => {
                factors::plain_test(&self.means, &self.covariance, self.smallest_df(), contrasts)
            }
            Spread::Units(fit) => fit.test(contrasts),
            Spread::Fixtures(fit) => fit.test(contrasts),
        }
    }

    pub(super) fn smallest_df(&self) -> f64 {
        self.df.iter().copied().fold(f64::INFINITY, f64::min)
    }
}

pub(super) fn linear_model(fit: &MeansFit, units: &Units) -> Model {
    let usable = fit.df > 0.0 && !units.no_residual(fit);
    Model {
        means: fit.means.clone(),
        covariance: fit.covariance.clone(),
        df: vec![fit.df; fit.means.len() - 1],
        satterthwaite: None,
        spread: Spread::Residual,
        overall: if usable { linear::overall(fit) } else { None },
        residual: Residual {
            sd: (fit.df > 0.0).then_some(fit.residual_sd),
            df: fit.df,
            cv_percent: None,
            ..Residual::default()
        },
        usable,
    }
}

pub(super) fn mixed_model(fit: mixed::MixedFit, units: &Units) -> Model {
    let (between, within) = (fit.between_units_sd, fit.within_unit_sd);
    let df: Vec<f64> = (0..fit.means.len() - 1).map(|i| fit.df(i)).collect();
    Model {
        residual: Residual {
            sd: Some((between * between + within * within / units.typical_samples()).sqrt()),
            df: fit.df_cap,
            cv_percent: None,
            between_units_sd: Some(between),
            within_unit_sd: Some(within),
            ..Residual::default()
        },
        df,
        satterthwaite: Some(fit.df_satterthwaite.clone()),
        means: fit.means.clone(),
        covariance: fit.covariance.clone(),
        overall: fit.overall,
        spread: Spread::Units(Box::new(fit)),
        usable: true,
    }
}

/// Lamps by lamps, trays by trays.
pub(super) fn split_plot_model(
    table: &Table,
    units: &Units,
    layout: Layout,
) -> Result<Model, StatsError> {
    let fixtures: Vec<usize> = units.rows.iter().map(|r| table.fixtures[r.unit]).collect();
    let levels: Vec<usize> = table.cells.iter().map(|c| c[0]).collect();
    let fit = split_plot::fit(&SplitPlot {
        rows: &units.rows,
        fixtures: &fixtures,
        levels: &levels,
        blocks: layout.blocks,
        baseline: layout.baseline,
    })?;
    let against_control = |t: usize| {
        let mut weights = vec![0.0; fit.means.len()];
        (weights[t], weights[0]) = (1.0, -1.0);
        weights
    };
    let df: Vec<f64> = (1..fit.means.len())
        .map(|t| fit.df_of(&against_control(t)))
        .collect();
    Ok(Model {
        residual: Residual {
            sd: Some(fit.within_fixture_sd),
            df: fit.df_inside,
            cv_percent: None,
            between_fixtures_sd: Some(fit.between_fixtures_sd),
            fixtures_df: Some(fit.df_fixtures),
            ..Residual::default()
        },
        satterthwaite: Some(df.clone()),
        df,
        means: fit.means.clone(),
        covariance: fit.covariance.clone(),
        overall: fit.overall,
        spread: Spread::Fixtures(Box::new(fit)),
        usable: true,
    })
}
