// Starts what the pages need; every listener sits on the document, so that swapped parts work too.
import "./badges.js";
import "./canvas.js";
import "./draw.js";
import "./exact.js";
import "./guides.js";
import "./keys.js";
import "./ladder.js";
import "./loupe.js";
import "./previews.js";
import "./upload.js";
import "./forms.js";
import "./typing.js";
import "./compare.js";
import "./closelook.js";
import "./outputs.js";
import "./crop.js";
import "./ruler.js";
