import type { Schemas } from "../../api/client";
import arrive from "../../../../docs/screenshots/arrive.png";
import charge from "../../../../docs/screenshots/charge.png";
import decay from "../../../../docs/screenshots/decay.png";
import evacuate from "../../../../docs/screenshots/evacuate.png";
import hold from "../../../../docs/screenshots/hold.png";
import search from "../../../../docs/screenshots/search.png";
import signOff from "../../../../docs/screenshots/sign-off.png";
import startUp from "../../../../docs/screenshots/start-up.png";
import survey from "../../../../docs/screenshots/survey.png";

/** A page of the handbook: of a stage, or of something that belongs to none. */
export interface Leaf {
  id: string;
  title: string;
  stages?: Schemas["Stage"][];
  picture?: { src: string; says: string };
  /** Steps in their order, or things to know. */
  parts: { title: string; lines: string[] }[];
}

export const LEAVES: Leaf[] = [
  {
    id: "first-job",
    title: "The first job",
    parts: [
      {
        title: "Begin",
        lines: [
          "Press “New job” on Today. Site, kind of job, refrigerant and the lowest figure on any plate are enough to press up. “Fill in everything” asks for the rest at once; it can also be said later.",
          "Units are chosen once, at the top right. A reading stays as it was typed, in the unit of its gauge.",
          "A reading and a tap are kept at once. A form is kept when its button is pressed.",
        ],
      },
      {
        title: "Where to go next",
        lines: [
          "The stages of the job stand in a row. The large button on the card leads to what is next.",
          "The line of what is inside says what each section may hold, and at what pressure. If it is wrong, read a gauge and enter it there. Dangerous steps ask this line, not a tick.",
        ],
      },
      {
        title: "If something was entered wrongly",
        lines: [
          "A tap that decides (supply shut, isolated, end) can be undone for some seconds.",
          "Later a reading or an entry is struck out with a reason. It stays on the record and counts no longer.",
          "Refrigerant, kind of job, letter and names are corrected with a reason until the visit is signed.",
        ],
      },
    ],
  },
  {
    id: "arrival",
    title: "Arrival and recovery",
    stages: ["arrive"],
    picture: { src: arrive, says: "What was recovered, and what is missing" },
    parts: [
      {
        title: "What to enter",
        lines: [
          "The standing pressure and the temperature beside it, the plate’s charge, and what was recovered, by the scale.",
          "The cylinder’s tare, water capacity and test date. Ruhe works out how much may go in. Above that the entry is refused, unless somebody who may answer for it gives a reason.",
        ],
      },
      {
        title: "What it tells",
        lines: [
          "What is missing against the plate, and how large a leak explains it since it was last full. The tests after it have to answer that.",
          "Nothing recovered is not zero: leave the field empty where nothing was weighed.",
        ],
      },
    ],
  },
  {
    id: "survey",
    title: "Survey",
    stages: ["survey"],
    picture: { src: survey, says: "The survey with its sections" },
    parts: [
      {
        title: "What to enter",
        lines: [
          "Every plate that gas can reach, high side and low side. The lowest of them is the ceiling of a test.",
          "Valves that are shut divide the circuit into sections. Say what stands behind a shut valve: a factory charge leaks in slowly and looks like a tight system.",
          "Joints and ports, so that the leak search has a list. Lengths and bores give a volume: a better volume makes a sharper verdict.",
        ],
      },
    ],
  },
  {
    id: "hold",
    title: "Pressure hold",
    stages: ["hold"],
    picture: {
      src: hold,
      says: "A hold with its interval and the leak ladder",
    },
    parts: [
      {
        title: "Plan",
        lines: [
          "Choose the procedure of the maker or of your own, the test pressure and the time. No plate, no test.",
          "Use one temperature probe at least, strapped to the pipe and wrapped. Without a temperature a hold stays undecided: 1 °C colder looks like a loss of 0.34 % of the absolute pressure.",
          "Dry nitrogen only, through a regulator with relief. Oxygen or compressed air can explode with oil.",
        ],
      },
      {
        title: "Press up",
        lines: [
          "Go up in steps: some psi and listen, half way and listen, then up. Stand aside from caps and fittings.",
          "Shut the supply and say so. What was read before does not count.",
          "Let it settle: gas is warm from filling. Ruhe says when it has settled and starts the clock by itself.",
        ],
      },
      {
        title: "Read",
        lines: [
          "Pressure and temperature together, every few minutes at the beginning and near the end. The pad takes what the gauge shows, with all its digits.",
          "The best end is when the temperature is back where it was at the start: then little has to be corrected.",
        ],
      },
      {
        title: "What the words mean",
        lines: [
          "Holds: the loss is within the limit with 95 % probability, and it says how small a leak that leaves.",
          "Within limit, but losing: the same, and yet a leak is proven.",
          "Falling: the loss is above the limit with 99 % probability, and temperature does not explain it.",
          "Can’t tell yet, Needs longer, Needs more: it is undecided, and the card says what it needs.",
        ],
      },
      {
        title: "When it needs more",
        lines: [
          "Needs longer: the interval still holds both answers. The card says when it will be decided, as likely as not, and nine times in ten.",
          "Needs a temperature: strap a probe to the pipe. One reading of it is none.",
          "The weather moves it: wait for the evening, shade the pipe, or wrap the probe better.",
          "The gauge’s digit is too coarse: take a gauge with a finer one, or hold for longer.",
          "Readings stand apart: look at them. A slip of the finger is struck out, a real jump is not.",
        ],
      },
    ],
  },
  {
    id: "search",
    title: "Leak search and retest",
    stages: ["search"],
    picture: { src: search, says: "Places, looks and repairs" },
    parts: [
      {
        title: "Search",
        lines: [
          "While the pressure is on. Start with flares, valve cores, caps and the joints that were made today.",
          "A clear look needs its time: fluid stays on for a minute or more. A glance is kept as a glance.",
          "A suspect place is looked at again by another method. A leak that was found stays open until a hold proves the repair.",
        ],
      },
      {
        title: "Repair and retest",
        lines: [
          "Let the pressure out before you tighten, cut or braze, and enter what the gauges of both sides show then.",
          "The retest is at least as high as the pressure that showed the leak. At half the pressure it shows only a fraction of it.",
        ],
      },
    ],
  },
  {
    id: "release",
    title: "Release",
    stages: ["release"],
    parts: [
      {
        title: "Let it out",
        lines: [
          "Slowly, outdoors or with air: nitrogen displaces breath. Tracer is recovered, not let out.",
          "Enter what both gauges show afterwards. A check valve or a shut valve can keep a section under pressure: pump and torch wait for it.",
        ],
      },
    ],
  },
  {
    id: "vacuum",
    title: "Rig check and evacuation",
    stages: ["rig_check", "evacuate"],
    picture: { src: evacuate, says: "A triple evacuation" },
    parts: [
      {
        title: "The rig first",
        lines: [
          "Blank off pump, hoses and gauge and pull. What the tools do by themselves is not the system’s fault, and is taken off the rise later only if it was measured.",
        ],
      },
      {
        title: "The first vacuum",
        lines: [
          "Lock out the compressor: under vacuum it burns out, and it must not start.",
          "Take the valve cores out, use wide short hoses, and put the gauge far from the pump. A gauge at the pump shows the pump.",
          "Ruhe says when the target is reached, as an interval, and what holds it up: cores, hoses, oil, water, a leak.",
          "At a stall open the gas ballast, warm the coldest place, or break with nitrogen and pull again.",
        ],
      },
    ],
  },
  {
    id: "decay",
    title: "Decay test",
    stages: ["decay"],
    picture: { src: decay, says: "A decay with the shapes that explain it" },
    parts: [
      {
        title: "Do it",
        lines: [
          "Shut the valve at the system, say so, and leave it alone for the time of the rule.",
          "Read every minute at the beginning: the bend tells water from a leak.",
        ],
      },
      {
        title: "What the words mean",
        lines: [
          "“Passes” and “Over limit” follow the rule: the level after its time. What makes it rise is another question, answered beside it with probabilities.",
          "A straight rise speaks for a leak; one that flattens at the vapour pressure of water for moisture; one that flattens lower for oil and rubber.",
          "When it cannot tell them apart it says how much longer would, and which step settles most per minute.",
        ],
      },
    ],
  },
  {
    id: "charge",
    title: "Breaking the vacuum and charging",
    stages: ["break_vacuum", "charge"],
    picture: {
      src: charge,
      says: "The target, the number to stop at, the ledger",
    },
    parts: [
      {
        title: "The target",
        lines: [
          "The maker’s base and what the pipes beyond it take. Each part is shown as a line; enter where it comes from.",
          "A slip of units (oz for g, lb for kg) is asked about, never changed by itself.",
        ],
      },
      {
        title: "The first charge",
        lines: [
          "Check the cylinder’s name. Another refrigerant than the circuit’s is refused.",
          "Vapour only until the refrigerant boils above 0 °C at its pressure: liquid into a vacuum freezes what water is left. Then blends as liquid, throttled into the suction side.",
          "The scale page shows the number to stop at, in large figures. Enter what the scale showed before and after.",
        ],
      },
    ],
  },
  {
    id: "start-up",
    title: "Start-up",
    stages: ["start_up"],
    picture: { src: startUp, says: "Reading sets, steady or not" },
    parts: [
      {
        title: "Before the power goes on",
        lines: [
          "Service valves open to their stop, caps on, the lock taken off by whoever put it there.",
        ],
      },
      {
        title: "Read it",
        lines: [
          "Both pressures, suction line, liquid line and the air at the same moment. It is steady when three sets two minutes apart do not differ, long enough after the start and the last gas.",
          "Superheat counts from the dew line, subcooling from the bubble line. Figures before it is steady are shown and not judged.",
        ],
      },
    ],
  },
  {
    id: "sign-off",
    title: "Sign-off",
    stages: ["sign_off"],
    picture: { src: signOff, says: "The gates, and the states that are open" },
    parts: [
      {
        title: "Gates",
        lines: [
          "Each gate says what it asks, whether it is met, and by which test. A gate that is not met leads to where it is met.",
          "Where the rule allows it, a gate is answered with a reason. The record shows it as answered, not as met.",
        ],
      },
      {
        title: "The state",
        lines: [
          "Passed needs every gate. Passed with reservations names what, why and whose risk. Temporary and Provisional name what is outstanding and when somebody comes back. Not proven: the tests hold, but its history says that it leaks. Failed says what is wrong and what was left inside.",
          "A signature closes the visit. Words, a witness and the next visit are added after it; nothing is changed.",
          "The record goes out as a PDF for each reader, and as a file that ruhe verify checks anywhere.",
        ],
      },
    ],
  },
  {
    id: "without-network",
    title: "Phone and no network",
    parts: [
      {
        title: "Pair a phone",
        lines: [
          "On the page People, with the code. The phone has to trust Ruhe’s root once; the page says how.",
          "What is in work is taken along. Without the network it shows, judges and takes entries by the same rules.",
        ],
      },
      {
        title: "Back again",
        lines: [
          "What waits is sent in order, with the times of then. What the server refuses waits for you, at the top.",
          "Two devices may enter at the same time. Nothing is overwritten.",
        ],
      },
    ],
  },
  {
    id: "words",
    title: "Words",
    parts: [
      {
        title: "On screen",
        lines: [
          "Interval: the range in which the true value lies with 95 % probability.",
          "Limit: the fall or the level that a procedure allows. Its source stands beside it.",
          "Settled: what is left of the heat of filling is too small to matter.",
          "Digit: the smallest step a gauge shows.",
          "Section: the part of a circuit between valves that are shut.",
          "Ceiling: the lowest rating that the gas reaches.",
          "Leak ladder: leaks by size, and which of them each finished test would have shown.",
          "Gate: what has to be shown before a circuit is signed as passed.",
          "Reservation: what is signed in spite of: what, why, and whose risk.",
          "Struck out: it stays on the record with the reason, and counts no longer.",
          "Dew line, bubble line: where vapour begins to condense, where liquid begins to boil. Between them lies the glide of a blend.",
        ],
      },
    ],
  },
];
