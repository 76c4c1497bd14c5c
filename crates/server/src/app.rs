//! What every handler shares: the store, who may reach it, and work off the async threads.

use crate::checks::Checks;
use crate::error::Problem;
use crate::figures::Figures;
use crate::incoming::Incoming;
use crate::instruments::Instruments;
use crate::tries::Tries;
use iron_twin_store::Store;
use std::ops::Deref;
use std::sync::{Arc, Mutex, PoisonError};

/// What every handler shares.
#[derive(Clone)]
pub struct App {
    pub(crate) store: Arc<Store>,
    pub(crate) examples: Option<Examples>,
    /// Whether only this computer can reach it.
    pub(crate) here: bool,
    /// Hosts under which it answers beside its own address.
    pub(crate) hosts: Arc<[String]>,
    pub(crate) tries: Arc<Tries>,
    pub(crate) checks: Checks,
    figures: Arc<Figures>,
    /// Files of loggers that wait to be taken in, or are.
    pub(crate) incoming: Arc<Incoming>,
    /// Scales, probes, meters and switches.
    pub(crate) instruments: Arc<Instruments>,
    /// Where the bench of the stand-ins is, if they run.
    pub(crate) bench: Option<Arc<str>>,
    adding: Arc<Mutex<()>>,
}

/// What a handler works with: the store, and what is computed from it.
pub(crate) struct Work {
    store: Arc<Store>,
    /// What is computed once and kept.
    pub(crate) figures: Arc<Figures>,
}

impl Deref for Work {
    type Target = Store;

    fn deref(&self) -> &Store {
        &self.store
    }
}

/// Adds example trials to a farm that has none, as they would stand on the given day.
pub type Examples = fn(&Store, jiff::civil::Date) -> iron_twin_store::Result<()>;

impl App {
    /// An app over an open store.
    #[must_use]
    pub fn new(store: Store) -> Self {
        let tries = Arc::new(Tries::default());
        Self {
            store: Arc::new(store),
            examples: None,
            here: true,
            hosts: Arc::from([]),
            tries,
            checks: Checks::start(),
            figures: Arc::new(Figures::new()),
            incoming: Arc::default(),
            instruments: Arc::default(),
            bench: None,
            adding: Arc::default(),
        }
    }

    /// Lets others reach it: everybody signs in then. Host names beside addresses must be said,
    /// since a page elsewhere could make a name of its own point here.
    #[must_use]
    pub fn for_others(self, hosts: Vec<String>) -> Self {
        Self {
            here: false,
            hosts: hosts.into(),
            ..self
        }
    }

    /// Offers example trials to a farm that has none.
    #[must_use]
    pub fn with_examples(self, examples: Examples) -> Self {
        Self {
            examples: Some(examples),
            ..self
        }
    }

    /// Tells where the bench of the stand-ins is.
    #[must_use]
    pub fn with_bench(self, address: &str) -> Self {
        Self {
            bench: Some(Arc::from(address)),
            ..self
        }
    }

    /// Runs work that checks first and then writes in several steps: one after the other, whoever
    /// asks.
    pub(crate) async fn run_alone<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Work) -> Result<T, Problem> + Send + 'static,
    ) -> Result<T, Problem> {
        let adding = Arc::clone(&self.adding);
        self.run(move |own| {
            let _alone = adding.lock().unwrap_or_else(PoisonError::into_inner);
            work(own)
        })
        .await
    }

    /// Runs work on the store off the async threads.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Work) -> Result<T, Problem> + Send + 'static,
    ) -> Result<T, Problem> {
        let own = Work {
            store: Arc::clone(&self.store),
            figures: Arc::clone(&self.figures),
        };
        tokio::task::spawn_blocking(move || work(&own))
            .await
            .unwrap_or_else(|e| Err(Problem::internal(&e)))
    }
}
