// One module a behaviour; htmx does the rest.
import { switchLighting } from "./lighting.js";
import { keepAnswers } from "./outbox.js";
import { benchKeys } from "./keys.js";
import { showPhotos } from "./photos.js";

switchLighting();
keepAnswers();
benchKeys();
showPhotos();
