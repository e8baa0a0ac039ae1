// full
// A die that goes round from one to six at a third of the oscillator, and a wheel of 6000 places on both edges of a
// slower clock; each is shown when its key is let go.
module top(input clk, input key, input turn, output reg [2:0] die, output reg [12:0] wheel);
  reg [1:0] third = 0;
  reg [2:0] n = 1;
  reg slow = 0, was = 0, turned = 0;
  reg [12:0] w = 0;
  always @(posedge clk) begin
    third <= third == 2 ? 2'd0 : third + 1'b1;
    if (third == 2) begin
      n <= n == 6 ? 3'd1 : n + 1'b1;
      slow <= ~slow;
    end
    was <= key;
    if (was && !key) die <= n;
    turned <= turn;
    if (turned && !turn) wheel <= w;
  end
  always @(negedge slow) w <= w == 5999 ? 13'd0 : w + 1'b1;
endmodule
