// Runs before the page is drawn: styles that need the modules apply from the start.
document.documentElement.classList.add("js");
