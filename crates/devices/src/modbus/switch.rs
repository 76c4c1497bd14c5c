//! Switches: plugs, pumps and valves that a timer works, as coils.

use super::{EVERY, asked, open};
use crate::contact::{Contact, Waits};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::{mpsc, oneshot};
use tokio_modbus::client::Context;
use tokio_modbus::{Request, Response};

/// A switch that is to be worked, and who waits to hear that it was.
struct Order {
    coil: u16,
    on: bool,
    done: oneshot::Sender<Result<(), String>>,
}

struct Shared {
    contact: Contact,
    states: Vec<Option<bool>>,
}

/// A timer or plug at an address; the line to it is kept until this is dropped.
pub struct Switches {
    shared: Arc<Mutex<Shared>>,
    orders: mpsc::Sender<Order>,
    task: tokio::task::JoinHandle<()>,
}

/// Orders that wait at most.
const MOST_ORDERS: usize = 8;

impl Switches {
    /// Reaches for the switches at `host:port`: so many coils from 0. Must be called within a Tokio
    /// runtime.
    #[must_use]
    pub fn at(address: String, coils: u16) -> Self {
        let states = vec![None; usize::from(coils)];
        let shared = Arc::new(Mutex::new(Shared {
            contact: Contact::Reaching,
            states,
        }));
        let (orders, waiting) = mpsc::channel(MOST_ORDERS);
        let task = tokio::spawn(keep(Arc::clone(&shared), address, coils, waiting));
        Self {
            shared,
            orders,
            task,
        }
    }

    /// How it stands now: the line, and each switch; None where it is not known.
    #[must_use]
    pub fn view(&self) -> (Contact, Vec<Option<bool>>) {
        let own = self.shared.lock().unwrap_or_else(PoisonError::into_inner);
        (own.contact.clone(), own.states.clone())
    }

    /// Works a switch, and waits until the device has said that it did.
    ///
    /// # Errors
    /// Why it did not, in a grower's words; nothing is tried again by itself.
    pub async fn set(&self, coil: u16, on: bool) -> Result<(), String> {
        let (done, said) = oneshot::channel();
        let there = matches!(self.view().0, Contact::Live);
        let known = usize::from(coil) < self.view().1.len();
        if !there || !known {
            return Err(if known {
                "it is not there"
            } else {
                "it has no such switch"
            }
            .into());
        }
        self.orders
            .try_send(Order { coil, on, done })
            .map_err(|_| "it is busy with other orders".to_owned())?;
        said.await.unwrap_or_else(|_| {
            Err("the line was lost before it answered; look whether it was done".into())
        })
    }
}

impl Drop for Switches {
    fn drop(&mut self) {
        self.task.abort();
    }
}

async fn states(context: &mut Context, coils: u16) -> Result<Vec<Option<bool>>, String> {
    let Response::ReadCoils(found) = asked(context, Request::ReadCoils(0, coils)).await? else {
        return Err("it answered another question".into());
    };
    // Coils come eight to a byte: those beyond what was asked for are filling.
    if found.len() < usize::from(coils) || found.len() > usize::from(coils).next_multiple_of(8) {
        return Err(format!(
            "it answered {} switches in the place of {coils}",
            found.len()
        ));
    }
    Ok(found
        .into_iter()
        .take(usize::from(coils))
        .map(Some)
        .collect())
}

async fn keep(
    shared: Arc<Mutex<Shared>>,
    address: String,
    coils: u16,
    mut waiting: mpsc::Receiver<Order>,
) {
    let lock = || shared.lock().unwrap_or_else(PoisonError::into_inner);
    let mut waits = Waits::default();
    loop {
        let why = match open(&address).await {
            Err(why) => why,
            Ok(mut context) => loop {
                match states(&mut context, coils).await {
                    Err(why) => break why,
                    Ok(found) => {
                        waits.answered();
                        let mut own = lock();
                        (own.contact, own.states) = (Contact::Live, found);
                    }
                }
                let Ok(Some(order)) = tokio::time::timeout(EVERY, waiting.recv()).await else {
                    continue;
                };
                let worked = asked(&mut context, Request::WriteSingleCoil(order.coil, order.on))
                    .await
                    .map(|_| ());
                let failed = worked.clone().err();
                let _ = order.done.send(worked);
                if let Some(why) = failed {
                    break why;
                }
            },
        };
        {
            let mut own = lock();
            own.contact = Contact::Lost { why };
            own.states.iter_mut().for_each(|state| *state = None);
        }
        // Orders of before the line was lost are not worked when it is back.
        while let Ok(order) = waiting.try_recv() {
            let _ = order.done.send(Err("it is not there".into()));
        }
        waits.wait().await;
    }
}
