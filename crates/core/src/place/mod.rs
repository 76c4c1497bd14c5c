//! Place: the deal, its codes and its seal; rotation and the walk; what a placement has wrong; the light of a
//! shelf.

pub mod balance;
pub mod blind;
pub mod deal;
pub mod light;
pub mod placed;
pub mod rotation;
pub mod walk;
