//! The door between the page's worker and [`ruhe_pocket`]: bytes in, bytes out, no imports.
//!
//! A call is one JSON object, its bytes written where [`alloc`] says; the answer is a pointer to its length (four
//! bytes, little end first) and its bytes, to be given back with [`release`].
//!
//! The names go out only where they are wanted: in a program of this machine `free` would stand in for the system's
//! own.

use ruhe_job::tell::{Bag, ShelfBag};
use ruhe_pocket::{Pocket, Reply, Request};
use serde::{Deserialize, Serialize};
use std::cell::RefCell;

/// What the worker asks.
#[derive(Deserialize)]
#[serde(tag = "call", rename_all = "snake_case")]
enum Call {
    /// Kit, procedures, and which circuits stay.
    Shelf { shelf: ShelfBag },
    /// A circuit, or more of it.
    Bag { bag: Bag },
    /// A request of the page.
    Answer { request: Request, now_ms: i64 },
}

#[derive(Serialize)]
#[serde(untagged)]
enum Told {
    Done { ok: bool },
    Failed { error: String },
    Answered(Reply),
}

thread_local! {
    static POCKET: RefCell<Pocket> = RefCell::default();
}

fn told(call: &[u8], bytes: &[u8]) -> Told {
    let done = |r: Result<(), String>| match r {
        Ok(()) => Told::Done { ok: true },
        Err(error) => Told::Failed { error },
    };
    POCKET.with_borrow_mut(|pocket| match serde_json::from_slice(call) {
        Ok(Call::Shelf { shelf }) => done(pocket.take_shelf(&shelf).map_err(|e| e.to_string())),
        Ok(Call::Bag { bag }) => done(pocket.take(bag).map_err(|e| e.to_string())),
        Ok(Call::Answer { request, now_ms }) => {
            Told::Answered(pocket.answer(&request, bytes, now_ms))
        }
        Err(e) => done(Err(e.to_string())),
    })
}

/// Memory for so many bytes.
#[cfg_attr(target_family = "wasm", unsafe(no_mangle))]
pub extern "C" fn alloc(length: usize) -> *mut u8 {
    Box::into_raw(vec![0u8; length].into_boxed_slice()).cast()
}

/// Gives back what [`alloc`] gave.
///
/// # Safety
/// `at` and `length` are those of one [`alloc`] that was not given back yet.
#[cfg_attr(target_family = "wasm", unsafe(no_mangle))]
pub unsafe extern "C" fn free(at: *mut u8, length: usize) {
    // SAFETY: by the contract above it is the very box that `alloc` leaked.
    drop(unsafe { Box::from_raw(std::ptr::slice_from_raw_parts_mut(at, length)) });
}

/// Answers a call; `more` are bytes that go with it (a photo).
///
/// # Safety
/// Both are memory of [`alloc`] with these lengths.
#[cfg_attr(target_family = "wasm", unsafe(no_mangle))]
pub unsafe extern "C" fn answer(
    call: *const u8,
    length: usize,
    more: *const u8,
    more_length: usize,
) -> *mut u8 {
    // SAFETY: by the contract above both point to as many bytes, and nobody writes to them meanwhile: there is one
    // thread.
    let (call, more) = unsafe {
        (
            std::slice::from_raw_parts(call, length),
            std::slice::from_raw_parts(more, more_length),
        )
    };
    let text = serde_json::to_vec(&told(call, more)).unwrap_or_default();
    let mut out = Vec::with_capacity(4 + text.len());
    out.extend_from_slice(&u32::try_from(text.len()).unwrap_or(0).to_le_bytes());
    out.extend_from_slice(&text);
    Box::into_raw(out.into_boxed_slice()).cast()
}

/// Gives back an answer.
///
/// # Safety
/// `at` came from [`answer`] and was not given back yet.
#[cfg_attr(target_family = "wasm", unsafe(no_mangle))]
pub unsafe extern "C" fn release(at: *mut u8) {
    // SAFETY: by the contract above the four bytes of the length are there, and the box is of that many and four.
    unsafe {
        let length = u32::from_le_bytes(
            std::slice::from_raw_parts(at, 4)
                .try_into()
                .unwrap_or_default(),
        );
        drop(Box::from_raw(std::ptr::slice_from_raw_parts_mut(
            at,
            4 + length as usize,
        )));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A call through the door as the worker makes it.
    fn asked(call: &str) -> String {
        let at = alloc(call.len());
        // SAFETY: memory of `alloc` with its length, given back once; so is the answer.
        unsafe {
            std::ptr::copy_nonoverlapping(call.as_ptr(), at, call.len());
            let out = answer(at, call.len(), at, 0);
            free(at, call.len());
            let length = u32::from_le_bytes(*out.cast::<[u8; 4]>()) as usize;
            let text = std::slice::from_raw_parts(out.add(4), length).to_vec();
            release(out);
            String::from_utf8(text).unwrap_or_default()
        }
    }

    #[test]
    fn bytes_go_in_and_come_out() {
        assert!(asked("no call").contains("\"error\""));
        let view = asked(
            r#"{"call":"answer","now_ms":0,"request":{"method":"GET","path":"/api/circuits/nobody"}}"#,
        );
        assert!(view.contains("404"), "{view}");
    }
}
