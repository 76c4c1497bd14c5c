//! A weighing scale over TCP: it speaks a line at least twice a second.

pub mod line;

use crate::contact::{Contact, Waits, reach};
use crate::lines::{Came, LONGEST, next};
use iron_twin_core::weigh::steady::{NotSettled, Steady};
use serde::Serialize;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::{Duration, Instant};
use tokio::io::BufReader;
use tokio::net::TcpStream;

/// A scale that says nothing for so long is gone.
const SILENCE: Duration = Duration::from_secs(3);
/// So many lines in one second are no scale's.
const MOST_LINES: u32 = 200;
/// So many lines one after the other that are none of a scale are told.
const BABBLE: u32 = 5;

/// What the scale shows, and whether it can be taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Pan {
    /// It can be taken.
    Settled,
    /// It moves.
    Moving,
    /// Nothing lies on it.
    Empty,
    /// Set to zero under a load that is gone.
    BelowZero,
    /// Too heavy.
    Overload,
    /// What lies on it was taken.
    Taken,
    /// It is silent.
    Silent,
}

/// How a scale stands.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct ScaleView {
    /// The line to it.
    pub contact: Contact,
    /// What it shows, g; None where it shows no weight.
    pub g: Option<f64>,
    /// What can be done with it.
    pub pan: Pan,
}

struct Shared {
    contact: Contact,
    steady: Steady,
}

/// A scale at an address; the line to it is kept until this is dropped.
pub struct Scale {
    shared: Arc<Mutex<Shared>>,
    since: Instant,
    task: tokio::task::JoinHandle<()>,
}

fn ms(since: Instant) -> u64 {
    u64::try_from(since.elapsed().as_millis()).unwrap_or(u64::MAX)
}

impl Scale {
    /// Reaches for the scale at `host:port`, again and again. Must be called within a Tokio
    /// runtime.
    #[must_use]
    pub fn at(address: String) -> Self {
        let shared = Arc::new(Mutex::new(Shared {
            contact: Contact::Reaching,
            steady: Steady::default(),
        }));
        let since = Instant::now();
        let own = Line {
            shared: Arc::clone(&shared),
            since,
        };
        Self {
            shared,
            since,
            task: tokio::spawn(own.keep(address)),
        }
    }

    fn lock(&self) -> MutexGuard<'_, Shared> {
        self.shared.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// How it stands now.
    #[must_use]
    pub fn view(&self) -> ScaleView {
        let (own, now) = (self.lock(), ms(self.since));
        let pan = match own.steady.settled(now) {
            Ok(_) => Pan::Settled,
            Err(NotSettled::Moving) => Pan::Moving,
            Err(NotSettled::Empty) => Pan::Empty,
            Err(NotSettled::BelowZero) => Pan::BelowZero,
            Err(NotSettled::Overload) => Pan::Overload,
            Err(NotSettled::Taken) => Pan::Taken,
            Err(NotSettled::Silent) => Pan::Silent,
        };
        ScaleView {
            contact: own.contact.clone(),
            g: own.steady.shows(now),
            pan,
        }
    }

    /// The weight that may be taken now, g.
    ///
    /// # Errors
    /// [`NotSettled`], why there is none.
    pub fn settled(&self) -> Result<f64, NotSettled> {
        self.lock().steady.settled(ms(self.since))
    }

    /// The weight was recorded: the load must be lifted before the next is taken.
    pub fn took(&self) {
        self.lock().steady.took();
    }

    /// What lies there may be taken once more.
    pub fn again(&self) {
        self.lock().steady.again();
    }
}

impl Drop for Scale {
    fn drop(&mut self) {
        self.task.abort();
    }
}

/// The line to a scale, as its task keeps it.
struct Line {
    shared: Arc<Mutex<Shared>>,
    since: Instant,
}

impl Line {
    fn lock(&self) -> MutexGuard<'_, Shared> {
        self.shared.lock().unwrap_or_else(PoisonError::into_inner)
    }

    async fn keep(self, address: String) {
        let mut waits = Waits::default();
        loop {
            let why = match reach(&address).await {
                Ok(stream) => self.listen(stream, &mut waits).await,
                Err(why) => why,
            };
            {
                let mut own = self.lock();
                own.steady.lost();
                own.contact = Contact::Lost { why };
            }
            waits.wait().await;
        }
    }

    /// Hears it out; why it ended.
    async fn listen(&self, stream: TcpStream, waits: &mut Waits) -> String {
        let mut from = BufReader::with_capacity(1024, stream);
        let (mut second, mut lines, mut babble) = (Instant::now(), 0_u32, 0_u32);
        // Whatever is sent, a line of a scale must come in time.
        let mut understood = Instant::now();
        loop {
            let left = SILENCE.saturating_sub(understood.elapsed());
            let came = match tokio::time::timeout(left, next(&mut from)).await {
                Err(_) if babble > 0 => return "what it sends is not what a scale says".into(),
                Err(_) => return "it is silent; is the cable in?".into(),
                Ok(Err(error)) => return format!("the line broke: {error}"),
                Ok(Ok(Came::Closed)) => return "it hung up".into(),
                Ok(Ok(Came::Endless)) => return "what it sends has no lines".into(),
                Ok(Ok(Came::TooLong)) => None,
                Ok(Ok(Came::Line(line))) => Some(line),
            };
            if second.elapsed() >= Duration::from_secs(1) {
                (second, lines) = (Instant::now(), 0);
            }
            lines += 1;
            if lines > MOST_LINES {
                return format!("it sends more than {MOST_LINES} lines in a second");
            }
            match came.as_deref().and_then(line::read) {
                Some(says) => {
                    (babble, understood) = (0, Instant::now());
                    waits.answered();
                    let mut own = self.lock();
                    own.steady.hear(ms(self.since), says);
                    own.contact = Contact::Live;
                }
                None => {
                    babble += 1;
                    let mut own = self.lock();
                    // Nothing is known of what lay on it meanwhile.
                    own.steady.lost();
                    if babble >= BABBLE {
                        own.contact = Contact::Lost {
                            why: not_a_scale(came.as_deref()),
                        };
                    }
                }
            }
        }
    }
}

/// What came in the place of a weight, as it can be shown.
fn not_a_scale(line: Option<&[u8]>) -> String {
    let Some(line) = line else {
        return format!("it sends lines of more than {LONGEST} bytes");
    };
    let shown: String = String::from_utf8_lossy(line)
        .chars()
        .map(|c| if c.is_control() { '?' } else { c })
        .take(30)
        .collect();
    format!("it sends \"{shown}\", which is not what a scale says")
}
