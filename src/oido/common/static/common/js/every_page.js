/** What every page has: the dialog for people who were signed out, failed requests, dates in words, and the window's width for the server. */
import "./signed_out.js";
import "./dates.js";
import "./failures.js";
import "./screen.js";
