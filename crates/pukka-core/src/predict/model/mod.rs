//! How an amplifier behaves, simply: a load line for its outputs, losses that grow with the square of its current, a
//! supply that sags. Used to predict runs.

mod drawing;
mod load_line;
mod losses;
mod operating;

pub use drawing::Draw;
pub use load_line::{LoadLine, Point};
pub use losses::{LossPoint, Losses};
pub use operating::{Amplifying, Operating, Supplying};
