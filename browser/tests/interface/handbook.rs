//! The handbook and what is said about Ruhe, by clicks.

use crate::support::on_page;
use serde_json::json;

#[test]
fn a_stage_leads_to_its_page_and_a_word_is_found() {
    on_page(true, (390, 844), |p| async move {
        p.open("/").await;
        p.says("Right circuit, stage two").await;
        let circuit = p
            .js(
                "return document.querySelector('a[href^=\"/circuits/\"]').getAttribute('href').split('?')[0]",
                vec![],
            )
            .await;
        let path = format!("{}?stage=decay", circuit.as_str().unwrap());
        p.open(&path).await;
        p.press("How this stage goes").await;
        p.says("A straight rise speaks for a leak").await;
        let top = p
            .js(
                "return document.getElementById('decay').getBoundingClientRect().top",
                vec![],
            )
            .await;
        let top = top.as_f64().unwrap();
        assert!(
            (-20.0..400.0).contains(&top),
            "it leads to its own page: {top}"
        );
        p.is_sound("the handbook").await;
        p.fill("Search", "needs temperature").await;
        p.says("strap a probe to the pipe").await;
        p.says_no_longer("A straight rise speaks for a leak").await;
        p.fill("Search", "unicorn").await;
        p.says("Nothing here has all of these words.").await;
    });
}

/// Every stage has a page, and every picture of it is there.
#[test]
fn every_stage_has_a_page_with_its_picture() {
    on_page(true, (1280, 800), |p| async move {
        p.open("/handbook").await;
        p.says("The first job").await;
        for stage in [
            "arrive",
            "survey",
            "hold",
            "search",
            "release",
            "rig_check",
            "evacuate",
            "decay",
            "break_vacuum",
            "charge",
            "start_up",
            "sign_off",
        ] {
            p.open(&format!("/handbook#{stage}")).await;
            p.says("What the words mean").await;
        }
        let broken = p
            .js(
                "document.querySelectorAll('img').forEach(i => i.loading = 'eager'); \
                 return Promise.all([...document.querySelectorAll('img')].map(i => i.decode().then(() => null, () => i.alt)))\
                 .then(all => [all.length, all.filter(Boolean)])",
                vec![],
            )
            .await;
        assert_eq!(broken, json!([9, []]));
        p.is_sound("the handbook").await;
    });
}

#[test]
fn about_says_which_version_and_whose_work_is_inside() {
    on_page(false, (1280, 800), |p| async move {
        p.open("/about").await;
        p.says(&format!("This is ruhe {}", env!("CARGO_PKG_VERSION")))
            .await;
        p.is_sound("about").await;
        p.press("Whose work is inside, and their licences").await;
        p.says("actix-web").await;
    });
}

#[test]
fn an_empty_ruhe_says_how_to_begin() {
    on_page(false, (390, 844), |p| async move {
        p.open("/").await;
        p.says("No circuit in work").await;
        p.pick("Pressure", "kPa").await;
        p.is_sound("the greeting").await;
        p.press("The first job").await;
        p.says("Lowest figure on any plate").await;
        p.says("kPa").await;
        p.open("/").await;
        p.press("A drill").await;
        p.says("Drills").await;
    });
}
