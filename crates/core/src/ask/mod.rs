//! Ask: whether a question can be answered as asked, what the margin is worth, and what n units a
//! side could see.

pub mod cautions;
pub mod check;
pub mod expected;
pub mod foresight;
pub mod lacks;
pub mod picture;
pub mod sees;
pub mod worth;
