//! Where passphrases are checked: two threads of their own, each with the 19 MB that a check takes.
//! Taken anew for every check and spread over the threads that answer requests, 300 sign-ins at
//! once left the process with 400 MB.

use crate::error::Problem;
use argon2::{Block, Params};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Mutex, PoisonError};
use tokio::sync::oneshot;

/// Checks that run at the same time.
const AT_ONCE: usize = 2;

/// The room that a check takes; each thread has its own, once and for all.
pub(crate) type Room = Vec<Block>;

type Check = Box<dyn FnOnce(&mut Room) + Send>;

/// The threads, while somebody may ask them.
#[derive(Clone)]
pub(crate) struct Checks(Sender<Check>);

/// Works until nobody can ask any more.
fn work(asked: &Mutex<Receiver<Check>>) {
    let mut room = vec![Block::default(); Params::DEFAULT.block_count()];
    loop {
        // Waiting for the next, others wait for the lock.
        let next = asked.lock().unwrap_or_else(PoisonError::into_inner).recv();
        match next {
            Ok(check) => check(&mut room),
            Err(_) => return,
        }
    }
}

impl Checks {
    pub(crate) fn start() -> Self {
        let (sender, asked) = channel();
        let asked = Arc::new(Mutex::new(asked));
        for _ in 0..AT_ONCE {
            let asked = Arc::clone(&asked);
            std::thread::spawn(move || work(&asked));
        }
        Self(sender)
    }

    /// Does a check when its turn comes.
    pub(crate) async fn run<T: Send + 'static>(
        &self,
        check: impl FnOnce(&mut Room) -> T + Send + 'static,
    ) -> Result<T, Problem> {
        let (done, answer) = oneshot::channel();
        // Who asked may be gone by then.
        let check = Box::new(move |room: &mut Room| drop(done.send(check(room))));
        self.0.send(check).map_err(|e| Problem::internal(&e))?;
        answer.await.map_err(|e| Problem::internal(&e))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[tokio::test]
    async fn however_many_ask_two_threads_answer() {
        let checks = Checks::start();
        let asked = (0..40).map(|n| {
            let checks = checks.clone();
            tokio::spawn(async move {
                let seen = checks
                    .run(move |_| (n, std::thread::current().id()))
                    .await
                    .unwrap();
                assert_eq!(seen.0, n);
                seen.1
            })
        });
        let mut threads = HashSet::new();
        for answer in asked.collect::<Vec<_>>() {
            threads.insert(answer.await.unwrap());
        }
        assert!((1..=AT_ONCE).contains(&threads.len()), "{threads:?}");
    }
}
