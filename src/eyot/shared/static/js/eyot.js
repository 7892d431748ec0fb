// One module a behaviour; htmx does the rest.
import { switchLighting } from "./lighting.js";
import { answerLooks } from "./answers.js";
import { keepAnswers } from "./outbox.js";
import { benchKeys } from "./keys.js";
import { showPhotos } from "./photos.js";
import { editStrips } from "./strips.js";
import { lineUp } from "./lineup.js";
import { cutEggs } from "./cutting.js";
import { arrangeBox } from "./box.js";
import { countEggs } from "./plan.js";
import { answerLines } from "./line.js";
import { layBesideAsHeard } from "./heard.js";
import { keepPages } from "./kept.js";

switchLighting();
keepAnswers();
answerLooks();
benchKeys();
showPhotos();
editStrips();
lineUp();
cutEggs();
arrangeBox();
countEggs();
answerLines();
layBesideAsHeard();
keepPages();
