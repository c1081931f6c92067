<?php

namespace Tests\Browser;

use App\Models\User;
use App\People\Totp;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use Tests\TestCase;

/** Somebody is invited, sets a password by the link, sees what was given and no more; and all of it can be read afterwards. */
final class PeopleStoryTest extends TestCase
{
    use FirstUse;

    private function login(string $email, string $password): void
    {
        $this->browser->go('/login');
        $this->browser->type('#email', $email);
        $this->browser->type('#password', $password);
        $this->browser->keys(WebDriverKeys::ENTER);
    }

    public function test_from_an_invitation_to_the_log(): void
    {
        $b = $this->browser;
        $m = '/m/'.$this->migration()->id;
        $this->login('lead@example.test', 'secret-Lead');
        $b->see('Migrations');
        $b->go("$m/people");
        $b->type('#name', 'Bo');
        $b->type('#email', 'bo@example.test');
        $b->find('#role')->sendKeys('client');
        $b->press('Invite');
        $b->see('shown this once');
        $this->assertClean();
        $link = (string) parse_url($b->find('.note code')->getText(), PHP_URL_PATH);
        $b->go('/account');
        $this->assertClean();
        $policy = 'const done = arguments[0]; fetch(document.querySelector("link[rel=stylesheet]").href)'
            .'.then((answer) => done(answer.headers.get("Content-Security-Policy")))';
        self::assertStringContainsString("default-src 'none'", (string) $b->driver->executeAsyncScript($policy), 'files have one too');
        $forged = 'const done = arguments[0]; fetch("/account", { method: "POST" }).then((answer) => done(answer.status))';
        self::assertSame(419, $b->driver->executeAsyncScript($forged), 'without the token of the page nothing is done');
        self::assertCount(1, $b->complaints());
        $b->press('Log out');
        $b->see('Every legacy row is accounted for');
        $this->joins($link, $m);
        $this->leadReads($m);
    }

    /** As a phone with a camera does: the picture is read by a program that knows nothing of ours. */
    private function scanned(): string
    {
        $reader = (string) file_get_contents(base_path('node_modules/jsqr/dist/jsQR.js'));

        return (string) $this->browser->driver->executeScript($reader.<<<'JS'
            ;const svg = document.querySelector('svg.qr'), n = svg.viewBox.baseVal.width, scale = 6;
            const canvas = Object.assign(document.createElement('canvas'), { width: n * scale, height: n * scale });
            const pen = canvas.getContext('2d');
            pen.fillStyle = '#fff';
            pen.fillRect(0, 0, n * scale, n * scale);
            pen.scale(scale, scale);
            pen.fillStyle = '#000';
            pen.fill(new Path2D(svg.querySelector('path').getAttribute('d')));
            return window.jsQR(pen.getImageData(0, 0, n * scale, n * scale).data, n * scale, n * scale).data;
            JS);
    }

    /** By the keyboard alone: set up a second factor, log out, and in again with the next code. */
    private function setsUpASecondFactor(string $password): void
    {
        $b = $this->browser;
        $b->go('/account/second');
        $this->assertClean();
        $b->type('#current', $password);
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Let the device read the picture');
        $this->assertClean();
        $uri = '~^otpauth://totp/Baggage:bo%40example\.test\?secret=([A-Z2-7]{32})&issuer=Baggage$~';
        self::assertSame(1, preg_match($uri, $this->scanned(), $m));
        $code = fn (int $ahead) => Totp::code(Totp::bytes($m[1]), Totp::step(time()) + $ahead);
        self::assertSame('code', $b->driver->switchTo()->activeElement()->getAttribute('id'));
        $b->keys($code(0), WebDriverKeys::ENTER);
        $b->see('Recovery codes, shown this once');
        $this->assertClean();
        $b->press('Log out');
        $this->login('bo@example.test', $password);
        $b->see('The code your device shows now');
        $this->assertClean();
        $b->keys('000000', WebDriverKeys::ENTER);
        $b->see('does not hold now');
        $b->keys($code(1), WebDriverKeys::ENTER);
        $b->see('Each is one client');
    }

    private function leadReads(string $m): void
    {
        $b = $this->browser;
        $this->login('lead@example.test', 'secret-Lead');
        $b->see('Migrations');
        $b->go("$m/log");
        $this->assertClean();
        $b->see('invited bo@example.test');
        $b->see('was refused');
        $b->go('/log');
        $b->see('set a password by a link');
        $b->see('set up a second factor');
        $b->see('login failed at the second factor');
        $b->go('/sessions');
        $this->assertClean();
    }

    private function joins(string $link, string $m): void
    {
        $b = $this->browser;
        $b->go($link);
        $this->assertClean();
        foreach (['short one' => 'at least 12 characters', 'password20262026' => 'one that many people use'] as $password => $says) {
            $b->driver->executeScript('document.querySelectorAll("[minlength]").forEach(e => e.removeAttribute("minlength"))');
            $b->type('#password', $password);
            $b->type('#password_confirmation', $password);
            $b->keys(WebDriverKeys::ENTER);
            $b->see($says);
        }
        $b->type('#password', 'three quiet otters');
        $b->type('#password_confirmation', 'three quiet otters');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Each is one client');
        self::assertSame([], $b->driver->findElements(WebDriverBy::cssSelector('form[action="/migrations"]')), 'begins none');
        $b->go("$m/people");
        $b->see('client reviewer');
        self::assertSame([], $b->driver->findElements(WebDriverBy::cssSelector('#email')), 'invites nobody');
        $b->go("$m/log");
        $b->see('Your role does not allow this');
        // The browser says itself that it was refused.
        self::assertCount(1, $b->complaints());
        self::assertNotNull(User::addressed('bo@example.test')->value('password'));
        $this->setsUpASecondFactor('three quiet otters');
        $b->go('/account');
        $this->assertClean();
        $b->press('Log out');
        $b->see('Every legacy row is accounted for');
    }
}
