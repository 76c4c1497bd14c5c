//! Probes, light and power meters, and switches over Modbus TCP.

pub mod meter;
pub mod registers;
pub mod switch;

use crate::contact::reach;
use std::time::Duration;
use tokio_modbus::client::{Client, Context, tcp};
use tokio_modbus::{Request, Response};

/// A device must answer a question in this time.
const ANSWER: Duration = Duration::from_secs(2);
/// How often it is asked.
pub const EVERY: Duration = Duration::from_secs(1);

/// Opens the line to `host:port`.
async fn open(address: &str) -> Result<Context, String> {
    Ok(tcp::attach(reach(address).await?))
}

/// What it answers, in time; why there is none, in a grower's words. The answer may be of another
/// length than was asked for: the library's own readers take it for granted that it is not, and end
/// the task where it is.
async fn asked(context: &mut Context, question: Request<'_>) -> Result<Response, String> {
    match tokio::time::timeout(ANSWER, context.call(question)).await {
        Err(_) => Err("it does not answer".into()),
        Ok(Err(error)) => Err(format!("it answered what cannot be read: {error}")),
        Ok(Ok(Err(exception))) => Err(format!("it refused the register: {exception}")),
        Ok(Ok(Ok(answer))) => Ok(answer),
    }
}
