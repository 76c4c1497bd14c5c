//! Mix: what goes into the water of each treatment, what the solution then holds, and how it is
//! filled and given alike.

pub mod aim;
pub mod bench;
pub mod composition;
pub mod doses;
pub mod filling;
pub mod given;
pub mod ingredient;
mod noticed;
pub mod order;
pub mod parts;
pub mod recipe;
pub mod serving;
pub mod spent;
pub mod spoons;
pub mod stock;
pub mod tank;
pub mod top_up;

pub use noticed::STARVED_N;
