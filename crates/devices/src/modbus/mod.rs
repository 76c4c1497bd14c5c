//! Probes, light and power meters, and switches over Modbus TCP.

pub mod meter;
pub mod registers;
pub mod switch;

use crate::contact::reach;
use std::time::Duration;
use tokio_modbus::client::{Context, tcp};

/// A device must answer a question in this time.
const ANSWER: Duration = Duration::from_secs(2);
/// How often it is asked.
pub const EVERY: Duration = Duration::from_secs(1);

/// Opens the line to `host:port`.
async fn open(address: &str) -> Result<Context, String> {
    Ok(tcp::attach(reach(address).await?))
}

/// What it answers, in time; why there is none, in a grower's words.
async fn asked<T>(question: impl Future<Output = tokio_modbus::Result<T>>) -> Result<T, String> {
    match tokio::time::timeout(ANSWER, question).await {
        Err(_) => Err("it does not answer".into()),
        Ok(Err(error)) => Err(format!("it answered what cannot be read: {error}")),
        Ok(Ok(Err(exception))) => Err(format!("it refused the register: {exception}")),
        Ok(Ok(Ok(answer))) => Ok(answer),
    }
}
