//! The tests of the instruments, in one binary: each more would be linked and run by itself.

mod hostile;
mod modbus;
