//! With one thumb: big keys under the trace, two channels in one row, an event, a strike-out, both lights.

use crate::hold_by_hand::new_job;
use crate::support::on_page;

#[test]
fn a_reading_goes_in_by_thumb() {
    on_page(false, (390, 844), |p| async move {
        new_job(&p, "Component on the bench").await;
        p.press("Pressure hold").await;
        p.fill("Test pressure, psig", "300").await;
        p.press("Open the test").await;
        p.says("Hold 1").await;
        // The keys fill the first channel, Next jumps to the second.
        p.says("Before the first gas").await;
        // On a phone too, what can kill stands first in the box where the hand is.
        let first = p
            .js(
                "return document.querySelector('section[aria-label=\"Press up\"] li').textContent",
                vec![],
            )
            .await;
        assert!(first.as_str().unwrap().contains("never oxygen"), "{first}");
        p.press("Yes, all of it").await;
        p.says("Up to 100 psig").await;
        for key in ["3", "0", "0", ".", "4", "Next", "6", "9"] {
            p.press(key).await;
        }
        assert_eq!(
            (
                p.value("Pressure, psig").await,
                p.value("Pipe probe, °F").await
            ),
            ("300.4".into(), "69".into())
        );
        p.press("Log").await;
        p.says("2 readings").await;
        // The last values stand greyed in their places.
        let shown = p.js("return [...document.querySelectorAll('form[aria-label=\"Reading pad\"] input')].map(i => i.placeholder + '|' + i.value)", vec![]).await;
        assert_eq!(shown, serde_json::json!(["300.4|", "69|"]));
        p.press("Supply shut now").await;
        p.says("Readings and events (2 and 1)").await;
        p.press("Other …").await;
        p.press("Note it").await;
        p.says("Say in a few words what happened").await;
        p.fill("What happened", "ladder moved, hose tugged").await;
        p.press("Note it").await;
        p.says("Readings and events (2 and 2)").await;
        p.press("Readings and events (2 and 2)").await;
        p.says("ladder moved, hose tugged").await;
        // Day, plant room, as the device: the paper really changes.
        let paper = "return getComputedStyle(document.body).backgroundColor";
        p.press("Light: as the device. Change to day").await;
        let day = p.js(paper, vec![]).await;
        p.press("Light: day. Change to plant room").await;
        assert_ne!(p.js(paper, vec![]).await, day);
        p.driver.refresh().await.unwrap();
        p.says("Hold 1").await;
        assert_ne!(p.js(paper, vec![]).await, day);
    });
}

#[test]
fn single_keys_can_be_switched_off() {
    on_page(true, (1280, 800), |p| async move {
        p.open("/").await;
        p.says("Line set and indoor coil").await;
        p.driver
            .find(thirtyfour::By::Tag("body"))
            .await
            .unwrap()
            .send_keys("u")
            .await
            .unwrap();
        p.says("Single keys").await;
        p.js(
            "document.querySelector('[role=dialog] input[type=checkbox]').click()",
            vec![],
        )
        .await;
        p.driver
            .active_element()
            .await
            .unwrap()
            .send_keys(thirtyfour::Key::Escape + "")
            .await
            .unwrap();
        let row = p.js("return [...document.querySelectorAll('a')].find(a => a.textContent.includes('Line set and indoor coil')).getAttribute('href')", vec![]).await;
        p.open(row.as_str().unwrap()).await;
        p.says("Vapour port").await;
        p.driver
            .find(thirtyfour::By::Tag("body"))
            .await
            .unwrap()
            .send_keys("r")
            .await
            .unwrap();
        assert_eq!(
            p.js("return document.activeElement.tagName", vec![]).await,
            "BODY"
        );
    });
}
