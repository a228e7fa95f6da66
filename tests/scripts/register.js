/** Scripts name each other as they are served, from one folder; on disk each app has its own. */
import { register } from "node:module";

register("./served.js", import.meta.url);
