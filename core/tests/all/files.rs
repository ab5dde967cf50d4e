//! A logger's file in one call, for tests.

use ruhe_core::reading::{Fault, LoggerFile, LoggerMapping, Taken, Understood};

pub fn understand(name: &str, bytes: &[u8]) -> Result<Understood, Fault> {
    Ok(LoggerFile::of(name, bytes)?.understood())
}

pub fn read_logger(name: &str, bytes: &[u8], m: &LoggerMapping) -> Result<Taken, Fault> {
    LoggerFile::of(name, bytes)?.read(m)
}
