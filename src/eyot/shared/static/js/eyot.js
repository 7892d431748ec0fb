// One module a behaviour; htmx does the rest.
import { switchLighting } from "./lighting.js";
import { answerLooks } from "./answers.js";
import { keepAnswers } from "./outbox.js";
import { benchKeys } from "./keys.js";
import { showPhotos } from "./photos.js";

switchLighting();
keepAnswers();
answerLooks();
benchKeys();
showPhotos();
