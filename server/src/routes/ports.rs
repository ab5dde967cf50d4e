//! The register of ports.

use super::verb::*;
use ruhe_job::act::PortsInput;

verb! {
    /// Keeps the next version of the register of ports.
    add_ports, "/api/circuits/{id}/ports", PortsInput
}
