// Written from migrations/0001_start/up.sql; change both together.
diesel::table! {
    sites (id) {
        id -> Text,
        name -> Text,
        place -> Text,
    }
}
diesel::table! {
    systems (id) {
        id -> Text,
        site_id -> Text,
        name -> Text,
        model -> Text,
        serial -> Text,
    }
}
diesel::table! {
    circuits (id) {
        id -> Text,
        system_id -> Text,
        tag -> Text,
        name -> Text,
        kind -> Text,
        refrigerant -> Text,
        scope -> Text,
        volume_l -> Nullable<Double>,
        created_ms -> BigInt,
    }
}
diesel::table! {
    surveys (seq) {
        seq -> BigInt,
        circuit_id -> Text,
        json -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    photos (id) {
        id -> Text,
        circuit_id -> Text,
        mime -> Text,
        bytes -> Binary,
        at_ms -> BigInt,
    }
}
diesel::table! {
    looks (id) {
        id -> Text,
        circuit_id -> Text,
        place -> Text,
        section -> Nullable<Text>,
        method -> Text,
        finding -> Text,
        dwell_s -> Nullable<Double>,
        at_pa -> Nullable<Double>,
        note -> Text,
        photo_id -> Nullable<Text>,
        at_ms -> BigInt,
    }
}
diesel::table! {
    repairs (id) {
        id -> Text,
        circuit_id -> Text,
        place -> Text,
        section -> Nullable<Text>,
        cause -> Text,
        words -> Text,
        torque_nm -> Nullable<Double>,
        with_torch -> Bool,
        at_ms -> BigInt,
    }
}
diesel::table! {
    kit (seq) {
        seq -> BigInt,
        item_id -> Text,
        kind -> Text,
        json -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    procedures (seq) {
        seq -> BigInt,
        code -> Text,
        json -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    tests (id) {
        id -> Text,
        circuit_id -> Text,
        kind -> Text,
        attempt -> Integer,
        plan -> Text,
        created_ms -> BigInt,
    }
}
diesel::table! {
    channels (id) {
        id -> Text,
        test_id -> Text,
        place -> Integer,
        name -> Text,
        quantity -> Text,
        unit -> Text,
        resolution -> Nullable<Double>,
        accuracy -> Nullable<Double>,
        range_top -> Nullable<Double>,
        position -> Nullable<Text>,
        volume_share -> Nullable<Double>,
        reference -> Nullable<Text>,
        principle -> Nullable<Text>,
        extra -> Text,
    }
}
diesel::table! {
    readings (seq) {
        seq -> BigInt,
        id -> Text,
        test_id -> Text,
        channel_id -> Text,
        at_ms -> BigInt,
        typed -> Text,
        value -> Double,
        origin -> Text,
        client_ms -> Nullable<BigInt>,
        received_ms -> BigInt,
        skewed -> Bool,
    }
}
diesel::table! {
    strikes (id) {
        id -> Text,
        reading_id -> Text,
        reason -> Text,
        superseded_by -> Nullable<Text>,
        at_ms -> BigInt,
    }
}
diesel::table! {
    events (id) {
        id -> Text,
        test_id -> Text,
        kind -> Text,
        note -> Text,
        at_ms -> BigInt,
        client_ms -> Nullable<BigInt>,
        received_ms -> BigInt,
    }
}
diesel::table! {
    clock_starts (id) {
        id -> Text,
        test_id -> Text,
        at_ms -> BigInt,
        reason -> Text,
        received_ms -> BigInt,
    }
}
diesel::table! {
    verdicts (id) {
        id -> Text,
        test_id -> Text,
        engine -> Text,
        json -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    test_ends (test_id) {
        test_id -> Text,
        verdict_id -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    steps (id) {
        id -> Text,
        circuit_id -> Text,
        step -> Text,
        note -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    overrides (id) {
        id -> Text,
        circuit_id -> Text,
        gate -> Text,
        preset -> Text,
        words -> Text,
        at_ms -> BigInt,
    }
}
diesel::table! {
    signatures (id) {
        id -> Text,
        circuit_id -> Text,
        name -> Text,
        role -> Text,
        statement -> Text,
        state -> Text,
        gates -> Text,
        digest -> Text,
        at_ms -> BigInt,
    }
}
diesel::allow_tables_to_appear_in_same_query!(
    sites,
    systems,
    circuits,
    surveys,
    photos,
    looks,
    repairs,
    procedures,
    kit,
    tests,
    channels,
    readings,
    strikes,
    events,
    clock_starts,
    verdicts,
    test_ends,
    steps,
    overrides,
    signatures
);
diesel::joinable!(systems -> sites (site_id));
diesel::joinable!(circuits -> systems (system_id));
