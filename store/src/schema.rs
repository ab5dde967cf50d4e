//! Tables as Diesel sees them; the migration is the source.

diesel::table! { entries (log, seq) { log -> Text, seq -> BigInt, id -> Text, deed -> Text, json -> Text,
hash -> Text, } }
diesel::table! { signatures (log, seq, key) { log -> Text, seq -> BigInt, key -> Text, signature -> Text, } }
diesel::table! { told (id) { id -> Text, what -> Text, } }
diesel::table! { recordings (digest, test) { digest -> Text, test -> Text, } }
diesel::table! { tests (n) { n -> BigInt, id -> Text, circuit -> Text, is_open -> Bool, } }
diesel::table! {
    readings (seq) {
        seq -> BigInt,
        id -> Text,
        test -> BigInt,
        channel -> Integer,
        at_ms -> BigInt,
        typed -> Text,
        value -> Double,
        origin -> Text,
        actor -> Text,
        device -> Text,
        client_ms -> Nullable<BigInt>,
        received_ms -> BigInt,
        skewed -> Bool,
    }
}
diesel::table! { photos (id) { id -> Text, circuit -> Text, mime -> Text, bytes -> Binary, } }
diesel::table! {
    circuits (id) {
        id -> Text,
        seq -> BigInt,
        job -> Text,
        site -> Text,
        place -> Text,
        system -> Text,
        serial -> Text,
        tag -> Text,
        name -> Text,
        refrigerant -> Text,
        stage -> Text,
        state -> Nullable<Text>,
        is_open -> Bool,
        at_ms -> BigInt,
        words -> Text,
        json -> Text,
    }
}
diesel::table! { sites (id) { id -> Text, name -> Text, place -> Text, } }
diesel::allow_tables_to_appear_in_same_query!(entries, tests, readings, photos, circuits, sites);
diesel::table! {
    people (id) { id -> Text, name -> Text, role -> Text, password -> Text, is_out -> Bool, }
}
diesel::table! {
    sessions (id) {
        id -> Text,
        person -> Text,
        token -> Text,
        device -> Text,
        is_paired -> Bool,
        made_ms -> BigInt,
        seen_ms -> BigInt,
        ends_ms -> BigInt,
        paired_by -> Nullable<Text>,
    }
}
diesel::table! { known_devices (token) { token -> Text, person -> Text, made_ms -> BigInt, } }
diesel::table! {
    refusals (hour_ms, what, place, address) {
        hour_ms -> BigInt,
        what -> Text,
        place -> Text,
        address -> Text,
        count -> BigInt,
    }
}
diesel::table! {
    gauges (id) {
        id -> Text,
        name -> Text,
        token -> Text,
        made_by -> Text,
        made_ms -> BigInt,
        seen_ms -> Nullable<BigInt>,
        is_simulated -> Bool,
        is_out -> Bool,
    }
}
diesel::table! {
    bindings (gauge, source) { gauge -> Text, source -> Text, test -> BigInt, channel -> Integer, }
}
diesel::table! {
    simulated (test) { test -> BigInt, gauge -> Text, truth -> Text, start_ms -> BigInt, }
}
diesel::allow_tables_to_appear_in_same_query!(people, sessions);
diesel::allow_tables_to_appear_in_same_query!(simulated, tests);
