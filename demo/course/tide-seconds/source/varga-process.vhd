-- Two processes: one for the time, one for the digits.
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity tide is
  port (clk, key : in std_logic;
        seg : out std_logic_vector(6 downto 0);
        an : out std_logic_vector(3 downto 0));
end entity;

architecture behaviour of tide is
  signal wait_second : unsigned(26 downto 0) := (others => '0');
  signal count : unsigned(13 downto 0) := (others => '0');
  signal scan : unsigned(16 downto 0) := (others => '0');
  signal shown : unsigned(13 downto 0);
begin
  process (clk) begin
    if rising_edge(clk) then
      scan <= scan + 1;
      if key = '0' then
        wait_second <= (others => '0');
        count <= (others => '0');
      elsif wait_second = 99999999 then
        wait_second <= (others => '0');
        count <= count + 1;
      else
        wait_second <= wait_second + 1;
      end if;
    end if;
  end process;

  process (scan, count) begin
    case scan(16 downto 15) is
      when "00" => an <= "1110"; shown <= count mod 10;
      when "01" => an <= "1101"; shown <= count / 10 mod 10;
      when "10" => an <= "1011"; shown <= count / 100 mod 10;
      when others => an <= "0111"; shown <= count / 1000;
    end case;
  end process;

  with to_integer(shown) select seg <=
    "1000000" when 0, "1111001" when 1, "0100100" when 2, "0110000" when 3, "0011001" when 4,
    "0010010" when 5, "0000010" when 6, "1111000" when 7, "0000000" when 8, "0010000" when others;
end architecture;
