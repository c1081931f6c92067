<?php

namespace Tests\Browser;

use Facebook\WebDriver\Chrome\ChromeDevToolsDriver;
use Facebook\WebDriver\Chrome\ChromeOptions;
use Facebook\WebDriver\Exception\StaleElementReferenceException;
use Facebook\WebDriver\Remote\DesiredCapabilities;
use Facebook\WebDriver\Remote\RemoteWebDriver;
use Facebook\WebDriver\Remote\RemoteWebElement;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverExpectedCondition;
use Symfony\Component\Process\Process;

/** Web server, queue worker, chromedriver and a headless Chromium, all on loopback. */
final class Browser
{
    private const SHELL = '/usr/lib/chromium/chromium-headless-shell';

    /** @var list<Process> */
    private array $processes = [];

    /** @var array<string, list<string>> kind of page → parts it was seen with */
    private static array $known = [];

    public readonly RemoteWebDriver $driver;

    public readonly string $address;

    public function __construct()
    {
        $root = dirname(__DIR__, 2);
        [$web, $chrome] = [$this->freePort(18080), $this->freePort(19515)];
        $this->address = "http://127.0.0.1:$web";
        $environment = [
            'APP_ENV' => 'local',
            'APP_DEBUG' => 'false',
            'QUEUE_CONNECTION' => 'database',
            'BAGGAGE_APART' => '1',
            'SESSION_DRIVER' => 'file',
            'CACHE_STORE' => 'file',
            'APP_URL' => $this->address,
        ];
        $this->start(
            [
                PHP_BINARY,
                '-d',
                'opcache.enable_cli=1',
                '-d',
                'upload_max_filesize=64M',
                '-d',
                'post_max_size=65M',
                '-S',
                "127.0.0.1:$web",
                "$root/support/serve.php",
            ],
            "$root/public",
            $environment,
        );
        $work = [PHP_BINARY, 'artisan', 'queue:work', '--queue=takes,passes,rows,looks', '--sleep=0.2', '--timeout=0'];
        $this->start($work, $root, $environment);
        $this->start(['chromedriver', "--port=$chrome"], $root, []);
        $this->await(
            fn () => @fsockopen('127.0.0.1', $web) !== false && @fsockopen('127.0.0.1', $chrome) !== false,
            'web server and chromedriver',
        );
        $options = new ChromeOptions;
        // Without the windows nobody sees, where it is installed. Not by the script in the path: what that begins would outlive it.
        is_executable(self::SHELL) ? $options->setBinary(self::SHELL) : null;
        $options->addArguments([
            '--headless=new',
            '--no-sandbox',
            '--disable-gpu',
            '--disable-quic',
            '--no-first-run',
            '--disable-background-networking',
            '--disable-component-update',
            '--disable-sync',
            '--disable-dev-shm-usage',
            '--window-size=1280,943',
        ]);
        $wanted = DesiredCapabilities::chrome();
        $wanted->setCapability(ChromeOptions::CAPABILITY, $options);
        $wanted->setCapability('goog:loggingPrefs', ['browser' => 'ALL']);
        $this->driver = RemoteWebDriver::create("http://127.0.0.1:$chrome", $wanted, 60_000, 120_000);
    }

    public function go(string $path): void
    {
        $this->driver->get($this->address.$path);
    }

    public function see(string $text, int $seconds = 40): void
    {
        $this->await(
            fn () => str_contains($this->text(), $text),
            "\"$text\" on ".$this->driver->getCurrentURL(),
            $seconds,
        );
    }

    public function text(): string
    {
        return (string) $this->driver->executeScript('return document.body ? document.body.innerText : ""');
    }

    public function find(string $css): RemoteWebElement
    {
        $this->driver
            ->wait(30)
            ->until(
                WebDriverExpectedCondition::presenceOfElementLocated(WebDriverBy::cssSelector($css)),
                "nothing is $css",
            );

        return $this->driver->findElement(WebDriverBy::cssSelector($css));
    }

    public function click(string $css): void
    {
        $this->patiently(fn () => $this->pressOn($this->find($css)));
    }

    /** A button or link by the words on it. */
    public function press(string $words): void
    {
        $xpath = "//*[self::button or self::a][contains(normalize-space(.), \"$words\")]";
        $this->driver
            ->wait(30)
            ->until(
                WebDriverExpectedCondition::presenceOfElementLocated(WebDriverBy::xpath($xpath)),
                "no button \"$words\" on ".$this->driver->getCurrentURL(),
            );
        $this->patiently(function () use ($xpath, $words) {
            foreach ($this->driver->findElements(WebDriverBy::xpath($xpath)) as $element) {
                if ($element->isDisplayed()) {
                    $this->pressOn($element);

                    return;
                }
            }
            throw new \RuntimeException("No visible button \"$words\"");
        });
    }

    private function pressOn(RemoteWebElement $element): void
    {
        $this->driver->executeScript('arguments[0].scrollIntoView({block: "center"})', [$element]);
        $element->click();
    }

    /** An untouched page that was opened while a pass ended is read again when its strip hears of it. */
    private function patiently(\Closure $act): void
    {
        for ($time = 1; ; $time++) {
            try {
                $act();

                return;
            } catch (StaleElementReferenceException $e) {
                if ($time === 12) {
                    throw $e;
                }
                usleep(500_000);
            }
        }
    }

    public function type(string $css, string $text): void
    {
        $this->patiently(function () use ($css, $text) {
            $element = $this->find($css);
            $this->driver->executeScript('arguments[0].value = ""', [$element]);
            $element->sendKeys($text);
        });
    }

    /** Waits until there is a field that keys would go to: what is opened takes the focus when it has come. */
    public function field(): void
    {
        $this->await(
            fn () => $this->driver->executeScript('return document.activeElement.matches("input, textarea, select")') === true,
            'a field with the focus',
        );
    }

    /** Keys to whatever has the focus. */
    public function keys(string ...$keys): void
    {
        $board = $this->driver->getKeyboard();
        foreach ($keys as $key) {
            // A file field takes whatever is sent to it for names of files, but a pressed key for a key.
            preg_match('/^[\x{E000}-\x{F8FF}]$/u', $key) === 1 ? $board->pressKey($key)->releaseKey($key) : $board->sendKeys($key);
        }
    }

    /** What the system says it prefers: "light" or "dark". */
    public function prefer(string $scheme): void
    {
        (new ChromeDevToolsDriver($this->driver))->execute('Emulation.setEmulatedMedia', [
            'features' => [['name' => 'prefers-color-scheme', 'value' => $scheme]],
        ]);
    }

    /** The room a page has, in CSS pixels. */
    public function size(int $width, int $height): void
    {
        (new ChromeDevToolsDriver($this->driver))->execute('Emulation.setDeviceMetricsOverride', [
            'width' => $width, 'height' => $height, 'deviceScaleFactor' => 1, 'mobile' => false,
        ]);
    }

    /**
     * @param  list<string>  $rules  the only ones to try
     * @return list<string> violations axe-core finds on the page (WCAG 2.2 A and AA)
     */
    public function violations(array $rules = []): array
    {
        // Through the driver, so the page's own policy is left as it is.
        if ($this->driver->executeScript('return typeof axe') === 'undefined') {
            $this->driver->executeScript((string) file_get_contents(dirname(__DIR__, 2).'/node_modules/axe-core/axe.min.js'));
        }
        $found = $this->driver->executeAsyncScript(
            // Of a long table the rows are alike: some of them speak for the rest.
            'const done = arguments[1], only = arguments[0]; axe.run({exclude: [["tbody > tr:nth-child(n+6)"]]}, {preload: false, '
                .'iframes: false, resultTypes: ["violations"], runOnly: only.length ? {type: "rule", values: only} '
                .': ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]}).then(r => done(r.violations.map(v => v.id '
                .'+ ": " + v.nodes.slice(0, 3).map(n => n.target.join(" ") + " '
                .'" + (n.any[0] ? n.any[0].message : "")).join("; "))))',
            [$rules],
        );

        return array_values($found);
    }

    /**
     * Whether pages were seen before with all the parts it has now; from now on they were.
     *
     * @param  string|null  $kind  of page; null for that in its address
     */
    public function isKnown(?string $kind = null): bool
    {
        $parts = $this->driver->executeScript(
            'const is = (e) => [e.tagName, e.getAttribute("class"), e.getAttribute("role"), e.getAttribute("type"), e.hidden].join(" "); '
                .'return [...new Set([...document.querySelectorAll("body *")].map(is))]',
        );
        $kind ??= (string) preg_replace('/\d+/', '0', (string) parse_url($this->driver->getCurrentURL(), PHP_URL_PATH));
        $new = array_diff($parts, self::$known[$kind] ?? []);
        self::$known[$kind] = [...self::$known[$kind] ?? [], ...$new];

        return $new === [];
    }

    /** @return list<string> what the browser complained of: scripts, policy, missing files */
    public function complaints(): array
    {
        return array_values(
            array_filter(
                array_map(fn ($l) => (string) $l['message'], $this->driver->manage()->getLog('browser')),
                fn ($m) => ! str_contains($m, 'status of 409') && ! str_contains($m, 'status of 422'),
            ),
        );
    }

    /** @param  \Closure(): bool  $condition */
    public function await(\Closure $condition, string $what, int $seconds = 40): void
    {
        $pause = 30_000;
        for ($end = microtime(true) + $seconds; microtime(true) < $end; usleep($pause)) {
            if ($condition()) {
                return;
            }
            // Reading a long page again and again slows what is waited for.
            $pause = min(250_000, (int) ($pause * 1.4));
        }
        throw new \RuntimeException(
            "Waited $seconds seconds for $what. The page says: "
                .mb_substr(isset($this->driver) ? $this->text() : '', 0, 1500),
        );
    }

    public function close(): void
    {
        if (isset($this->driver)) {
            $this->driver->quit();
        }
        foreach ($this->processes as $process) {
            $process->stop(1);
        }
    }

    /**
     * @param  list<string>  $command
     * @param  array<string, string>  $environment
     */
    private function start(array $command, string $folder, array $environment): void
    {
        $process = new Process($command, $folder, $environment, null, null);
        $process->disableOutput()->start();
        $this->processes[] = $process;
    }

    private function freePort(int $from): int
    {
        while (@fsockopen('127.0.0.1', $from) !== false) {
            $from++;
        }

        return $from;
    }
}
