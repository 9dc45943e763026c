"""What a person does in the browser, in their words."""

from selenium.common.exceptions import (
    NoSuchElementException,
    StaleElementReferenceException,
    TimeoutException,
    WebDriverException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select, WebDriverWait

from tests.support import room

WAIT_S, POLL_S = 30, 0.05
SETTLED = """
const kept = document.querySelector("[data-sent] [data-kept]");
const isKept = kept && /kept here|Nothing of yours/.test(kept.textContent);
return document.readyState === "complete" && (isKept || !document.querySelector("form[data-sent]"));
"""
UNFOLD = """
for (let fold = arguments[0].closest("details"); fold; fold = fold.parentElement.closest("details"))
  fold.open = true;
"""
# What is read of a part of the page: the driver's own way takes ten times as much of the cores.
SAID = """
const found = document.querySelector(arguments[0]);
return found && (found.checkVisibility() ? found.innerText ?? found.textContent : "");
"""
VALUE = "return document.querySelector(arguments[0])?.value ?? null"
MOST_TABS = 150
PASSING = (StaleElementReferenceException, NoSuchElementException, AssertionError)


class Person:
    """Sees text, follows links, fills fields, presses keys."""

    def __init__(self, driver, address):
        self.driver = driver
        self.address = address

    def go(self, path):
        self.driver.get(self.address + path)

    def sign_in(self, name="isla"):
        self.go("/sign-in/")
        self.fill("username", name)
        self.fill("password", room.PASSWORD)
        self.press("Sign in")
        self.wait(lambda: self.find("header .brand"))

    def wait(self, condition, within_s=WAIT_S):
        """Until a condition holds; what passes away meanwhile is looked for again."""
        waiting = WebDriverWait(self.driver, within_s, POLL_S, PASSING)
        try:
            return waiting.until(lambda _: self._now(condition))
        except TimeoutException:
            seen = f"{self.driver.current_url}\n{self.text('body')}"
            raise TimeoutException(f"waited in vain on {seen}") from None

    @staticmethod
    def _now(condition):
        """The condition at this moment; False while the page is being exchanged under it."""
        try:
            return condition()
        except WebDriverException as error:
            if "does not belong to the document" in str(error.msg):
                return False
            raise

    def find(self, selector):
        return self.driver.find_element(By.CSS_SELECTOR, selector)

    def find_all(self, selector):
        return self.driver.find_elements(By.CSS_SELECTOR, selector)

    def text(self, inside="main"):
        """The text a person reads in a part of the page."""
        found = self.driver.execute_script(SAID, inside)
        if found is None:
            raise NoSuchElementException(inside)
        return found.replace("\u00a0", " ").strip()

    def value(self, selector):
        """What is in a field now; read at one go, for the page may be exchanged at any moment."""
        found = self.driver.execute_script(VALUE, selector)
        if found is None:
            raise NoSuchElementException(selector)
        return found

    def sees(self, text):
        try:
            self.wait(lambda: text.lower() in self.text().lower())
        except TimeoutException:
            raise AssertionError(f"“{text}” is not on the page:\n{self.text()}") from None

    def focused(self):
        """The words of what has the focus."""
        return self.driver.switch_to.active_element.text

    def marked(self):
        """The text that is marked: what is typed next takes its place."""
        return self.driver.execute_script("return getSelection().toString()")

    def headline(self):
        return self.text("h1")

    def headlined(self, words):
        """Wait until the heading says so."""
        try:
            self.wait(lambda: words in self.headline())
        except TimeoutException:
            raise AssertionError(f"“{words}” is not the heading:\n{self.text()}") from None

    def follow(self, words):
        self._click(f"//a[normalize-space()='{words}'] | //a[.//*[normalize-space()='{words}']]")

    def press(self, words, inside="//main"):
        self._click(
            f"{inside}//button[contains(normalize-space(translate(., '\u00a0', ' ')), '{words}')]"
        )
        self.settle()

    def has_it_long_enough(self):
        """Go on from a press that was opened early; on busy cores it may have been long enough."""
        self.wait(lambda: "is closed on" not in self.headline())
        if "again for" in self.headline():
            self.press("Long enough", inside="//section[@data-run]")

    def settle(self):
        """Until what was sent is answered, or kept because nobody answers."""
        self.wait(lambda: self.driver.execute_script(SETTLED))

    def _click(self, path):
        def act():
            found = self.driver.find_element(By.XPATH, path)
            self.driver.execute_script("arguments[0].scrollIntoView({block:'center'})", found)
            found.click()
            return True

        self.wait(act)

    def fill(self, name, text):
        field = self.unfolded(name)
        field.clear()
        field.send_keys(text)

    def choose(self, name, words):
        Select(self.unfolded(name)).select_by_visible_text(words)

    def choose_in(self, selector, words):
        """Choose in a list that has no name of its own."""
        found = self.wait(lambda: self.find(selector))
        self.driver.execute_script(UNFOLD, found)
        Select(found).select_by_visible_text(words)

    def unfolded(self, name):
        """A field, with what is folded over it opened."""
        field = self.wait(lambda: self.find(f"main [name={name}]"))
        self.driver.execute_script(UNFOLD, field)
        return field

    def open_details(self, words):
        self._click(f"//summary[normalize-space()='{words}']")

    def type(self, *keys):
        ActionChains(self.driver).send_keys(*keys).perform()

    def enter(self, figure):
        """Type a figure at the station under way and wait for the next one."""
        before = self.station()
        self.find("#typed").send_keys(figure, Keys.ENTER)
        self.wait(lambda: self.station() != before)

    def station(self):
        """The station being read, or nothing when all are."""
        try:
            return self.text("#entry .station-name")
        except NoSuchElementException:
            return ""

    def tap(self, selector, x_share, y_share):
        """Tap inside a drawing at shares of its width and height from the top left."""
        drawing = self.find(selector)
        self.driver.execute_script("arguments[0].scrollIntoView({block:'center'})", drawing)
        box = drawing.rect
        across = round((x_share - 0.5) * box["width"])
        down = round((y_share - 0.5) * box["height"])
        ActionChains(self.driver).move_to_element_with_offset(
            drawing, across, down
        ).click().perform()

    def offline(self):
        self._network(offline=True)

    def online(self):
        self._network()

    def far_off(self, latency_ms=1500):
        """Each answer comes so much later: there is time to type while one is on its way."""
        self._network(latency=latency_ms)

    def _network(self, **state):
        self.driver.execute_cdp_cmd("Network.enable", {})
        usual = {"offline": False, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        self.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {**usual, **state})

    def press_by_key(self, words):
        """Tab on to what is named so, and press Enter."""
        self.reach(words)
        self.type(Keys.ENTER)

    def reach(self, words):
        """Tab on until what has the focus is named so: its name, its label or its text."""
        script = (
            "const e = document.activeElement; const text = (e.innerText || e.value || '').trim();"
            "return [e.name || '', text.replace(/\\s+/g, ' ').replace(/\\u00a0/g, ' ')];"
        )
        for _ in range(MOST_TABS):
            self.type(Keys.TAB)
            name, text = self.driver.execute_script(script)
            if words in (name, text) or text.startswith(words):
                return
        raise AssertionError(f"“{words}” is not reached by the Tab key:\n{self.text()}")
