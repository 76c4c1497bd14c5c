//! The HTTP API and the built page. One file a station in `api/`; a handler parses, calls, replies.
//!
//! | file | what it answers |
//! |---|---|
//! | `serve` | which address is listened on, how the layers lie over one another, how it stops |
//! | `app` | what every handler shares |
//! | `origin`, `access`, `tries` | may this request come in, who sends it, and what may they do? |
//! | `api/` | one file a station, and `farm`, `today`, `trials` around them |
//! | `view`, `stations` | a trial as the page sees it |
//! | `figures` | what is computed once and kept by the version of its inputs |
//! | `blind` | what recorders and viewers must not see before the key is opened |
//! | `instruments` | scales, probes, meters and switches, each with its line kept |
//! | `pictures` | what phones send: looked through, stripped, opened within bounds |
//! | `sent`, `error` | what came with a request; problems with their stable codes |

// A problem is made once for a failed answer; boxing it would buy nothing.
#![allow(clippy::result_large_err)]

mod access;
pub mod api;
mod app;
mod blind;
mod checks;
mod clock;
mod error;
mod figures;
mod incoming;
mod instruments;
mod limits;
mod origin;
mod page;
mod pictures;
mod sent;
mod serve;
mod stations;
mod tries;
mod view;

pub use app::{App, Examples};
pub use error::Problem;
pub use serve::{ServeError, bind, openapi, router, serve, stopped};
