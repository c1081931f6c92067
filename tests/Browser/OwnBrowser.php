<?php

namespace Tests\Browser;

use Facebook\WebDriver\WebDriverKeys;

/** A test with a browser of its own: closed at its end, with a picture of where it failed. */
trait OwnBrowser
{
    private Browser $browser;

    protected function tearDown(): void
    {
        if (isset($this->browser)) {
            if ($this->status()->isError() || $this->status()->isFailure()) {
                $this->browser->driver->takeScreenshot(self::work('failed.png'));
            }
            $this->browser->close();
        }
        parent::tearDown();
    }

    private function enterAsLead(string $sees): void
    {
        $this->browser = new Browser;
        $this->browser->go('/login');
        $this->browser->type('#email', 'lead@example.test');
        $this->browser->type('#password', 'secret-Lead');
        $this->browser->keys(WebDriverKeys::ENTER);
        $this->browser->see($sees);
    }

    private function assertClean(): void
    {
        $where = $this->browser->driver->getCurrentURL();
        self::assertSame([], $this->browser->isKnown() ? [] : $this->browser->violations(), "axe-core on $where");
        self::assertSame([], $this->browser->complaints(), "browser's console on $where");
    }
}
