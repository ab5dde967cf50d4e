//! Holds only tests: see tests/interface.
