//! What the pocket shows and decides is what the server shows and decides.
